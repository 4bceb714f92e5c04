import { z } from 'zod';
import {
  addAlways,
  addWorkingLess,
  compileHours,
  Span,
  wallDay,
  workingBetween,
  workingLess,
  workingMinutes,
  type Calendar,
  type Held,
} from '../calendar/index.ts';
import { Id, Key } from '../values/index.ts';

/** What is promised: a first word from the desk, or that it is done. */
export const promisedThings = ['response', 'fulfilment'] as const;
/** A thing that is promised. */
export type PromisedThing = (typeof promisedThings)[number];

/** A promise: within which time, for which tickets, when the desk is warned, and who is told when it is broken. */
export const TicketPromise = z.object({
  of: z.enum(promisedThings),
  /** Any of these priorities; none: whichever it has. */
  priorities: z.array(Id).max(10),
  /** At one of these places, or within it; none: wherever it is. */
  places: z.array(Key).max(100),
  within: Span,
  /** The share of the promised time, in percent, at which the desk is warned. */
  warnAt: z.number().int().min(1).max(99),
  /** Who is told when it is warned of and when it is late; and the priority it is raised to then. */
  late: z.object({ tell: z.enum(['holder', 'team', 'nobody']), raise: Id.optional() }),
});
export type TicketPromise = z.infer<typeof TicketPromise>;

/** By what a promise is chosen: the priority of a ticket, and where it is, from the place itself up to the widest around it. */
export interface PromiseFacts {
  priority: string;
  places: readonly string[];
}

/**
 * The promise of a thing for a ticket: of those that are for it the one of the nearest place, then the first. Undefined where nothing
 * is promised.
 */
export function promiseFor(promises: readonly TicketPromise[], of: PromisedThing, facts: PromiseFacts): TicketPromise | undefined {
  let best: TicketPromise | undefined;
  let bestAt = Infinity;
  for (const p of promises) {
    if (p.of !== of || (p.priorities.length > 0 && !p.priorities.includes(facts.priority))) continue;
    const at = p.places.length === 0 ? facts.places.length : facts.places.findIndex((place) => p.places.includes(place));
    if (at >= 0 && at < bestAt) [best, bestAt] = [p, at];
  }
  return best;
}

const roundTheClock = compileHours({
  name: 'Round the clock',
  zone: 'utc',
  week: Array.from({ length: 7 }, () => [{ from: 0, to: wallDay }]),
  exceptions: [],
  holidays: [],
});

/** How long a promise is, in minutes of the hours that count for it: a working day is 480, a day round the clock 1440. */
export function promisedMinutes({ length, counted }: Span): number {
  if (counted === 'working') return workingMinutes(length);
  const from = '2000-01-03T00:00:00Z';
  return (Date.parse(addAlways(from, length)) - Date.parse(from)) / 60_000;
}

/** The hours by which a span is counted: the desk's, or every hour. */
export const countedBy = ({ counted }: Span, desk: Calendar): Calendar => (counted === 'working' ? desk : roundTheClock);

/** What a clock of a ticket is reckoned from: when it began, when it stopped, when it was held. */
export interface Clock {
  began: string;
  stopped?: string | undefined;
  held: readonly Held[];
}

/** A stretch of a tide line, in minutes of the hours that count. */
export interface TideStretch {
  is: 'used' | 'held';
  minutes: number;
}

/** Where a promise stands at an instant; lengths are minutes of the hours that count. */
export interface Standing {
  promised: number;
  used: number;
  held: number;
  /** What is left; below nothing: by how much it is late. */
  left: number;
  /** When it falls due, as ISO instant; undefined while it is held. */
  due: string | undefined;
  warned: boolean;
  late: boolean;
  /** Running, held, or stopped: kept or broken by `late`. */
  phase: 'running' | 'held' | 'stopped';
  /** Used and held stretches in the order in which they were. */
  stretches: TideStretch[];
  /** At which share of the promised time the desk is warned, 0 to 1. */
  warnAt: number;
}

/**
 * Where a promise stands: working time since the clock began less what was held, against what was promised. A clock that has stopped
 * stands as it did then.
 */
export function standingOf(promise: Pick<TicketPromise, 'within' | 'warnAt'>, clock: Clock, desk: Calendar, now: string): Standing {
  const calendar = countedBy(promise.within, desk);
  const promised = promisedMinutes(promise.within);
  const until = earlier(clock.stopped ?? now, now);
  const used = workingLess(clock.began, until, clock.held, calendar);
  const due = addWorkingLess(clock.began, promised, clock.held, calendar);
  const isHeld =
    clock.stopped === undefined &&
    clock.held.some((h) => Date.parse(h.from) <= Date.parse(now) && (h.to === undefined || Date.parse(h.to) > Date.parse(now)));
  const stretches = tideStretches({ ...clock, stopped: until }, calendar);
  const warnAt = promise.warnAt / 100;
  return {
    promised,
    used,
    held: stretches.reduce((sum, s) => (s.is === 'held' ? sum + s.minutes : sum), 0),
    left: promised - used,
    due,
    warned: used >= promised * warnAt,
    late: used > promised,
    phase: clock.stopped !== undefined ? 'stopped' : isHeld ? 'held' : 'running',
    stretches,
    warnAt,
  };
}

/** When a share of what was promised is used up, as ISO instant; undefined while the clock is held. */
export const usedUpAt = (promise: Pick<TicketPromise, 'within'>, clock: Clock, desk: Calendar, share = 1): string | undefined =>
  addWorkingLess(clock.began, promisedMinutes(promise.within) * share, clock.held, countedBy(promise.within, desk));

/** What was used and held in turn, until the clock stopped; stretches in which nothing counts are left out. */
function tideStretches(clock: Clock & { stopped: string }, calendar: Calendar): TideStretch[] {
  const found: TideStretch[] = [];
  const add = (is: TideStretch['is'], from: string, to: string) => {
    const minutes = Date.parse(from) < Date.parse(to) ? workingBetween(from, to, calendar) : 0;
    if (minutes <= 0) return;
    const last = found.at(-1);
    if (last?.is === is) last.minutes += minutes;
    else found.push({ is, minutes });
  };
  let at = clock.began;
  for (const h of clock.held.toSorted((a, b) => Date.parse(a.from) - Date.parse(b.from))) {
    const [from, to] = [later(h.from, at), earlier(later(h.to ?? clock.stopped, at), clock.stopped)];
    if (Date.parse(from) >= Date.parse(clock.stopped)) break;
    add('used', at, from);
    add('held', from, to);
    at = later(to, at);
  }
  add('used', at, clock.stopped);
  return found;
}
const later = (a: string, b: string): string => (Date.parse(a) > Date.parse(b) ? a : b);
const earlier = (a: string, b: string): string => (Date.parse(a) < Date.parse(b) ? a : b);
