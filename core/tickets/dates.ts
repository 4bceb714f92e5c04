import { addWorking, type Calendar } from '../calendar/index.ts';
import { statusOf } from '../statuses/index.ts';
import {
  countedBy,
  promisedMinutes,
  promisedThings,
  promiseFor,
  standingOf,
  usedUpAt,
  type Clock,
  type PromisedThing,
  type Standing,
  type TicketPromise,
} from '../targets/index.ts';
import type { TicketKind } from './kind.ts';
import type { TicketState } from './state.ts';

/** The clock of a thing that is promised of a ticket. */
export function clockOf(state: TicketState, of: PromisedThing): Clock {
  const stopped = of === 'response' ? state.answeredAt : state.endedAt;
  return { began: state.openedAt, stopped, held: state.held };
}

/** What is promised of a ticket, as it is now: places from its own up to the widest around it. */
export const promisesOf = (kind: TicketKind, state: TicketState, places: readonly string[]): Partial<Record<PromisedThing, TicketPromise>> =>
  Object.fromEntries(
    promisedThings.flatMap((of) => {
      const promise = promiseFor(kind.promises, of, { priority: state.priority, places });
      return promise ? [[of, promise]] : [];
    }),
  );

/** Where the promises of a ticket stand at an instant, by the hours of its desk; of `things` alone. */
export function standingsOf(
  kind: TicketKind,
  state: TicketState,
  places: readonly string[],
  desk: Calendar,
  now: string,
  things: readonly PromisedThing[] = promisedThings,
): Partial<Record<PromisedThing, Standing>> {
  const promises = promisesOf(kind, state, places);
  return Object.fromEntries(things.flatMap((of) => (promises[of] ? [[of, standingOf(promises[of], clockOf(state, of), desk, now)]] : [])));
}

/** What a list of tickets is ordered by, and what waits for a moment. */
export interface Dates {
  /** When the fulfilment falls due; while it is held: when it would, were it to go on from where it was held. */
  due?: string;
  /** When the first word falls due; nothing once it was said. */
  responseDue?: string;
  /** The next moment at which something happens by itself, and what. */
  next?: { at: string; what: { told: PromisedThing; that: 'near' | 'late' } | { passes: string } };
}

/** The dates of a ticket, by the hours of its desk. */
export function datesOf(kind: TicketKind, state: TicketState, places: readonly string[], desk: Calendar): Dates {
  const promises = promisesOf(kind, state, places);
  const found: Dates = {};
  const nexts: NonNullable<Dates['next']>[] = [];
  for (const of of promisedThings) {
    const promise = promises[of];
    const clock = clockOf(state, of);
    if (!promise || (of === 'response' && clock.stopped !== undefined)) continue;
    const asIf = { ...clock, held: clock.held.map((h) => ({ ...h, to: h.to ?? h.from })) };
    const due = usedUpAt(promise, asIf, desk);
    if (due !== undefined) found[of === 'response' ? 'responseDue' : 'due'] = due;
    if (clock.stopped !== undefined || (promise.late.tell === 'nobody' && promise.late.raise === undefined)) continue;
    for (const [that, share] of [
      ['near', promise.warnAt / 100],
      ['late', 1],
    ] as const) {
      const at = state.told.includes(`${of}-${that}`) ? undefined : usedUpAt(promise, clock, desk, share);
      if (at !== undefined) nexts.push({ at, what: { told: of, that } });
    }
  }
  // What went into another does nothing by itself any more.
  if (state.joined !== undefined) return found;
  const passes = statusOf(kind.map, state.status)?.passes;
  if (passes) nexts.push({ at: addWorking(state.since, promisedMinutes(passes.after), countedBy(passes.after, desk)), what: { passes: passes.to } });
  const [next] = nexts.toSorted((a, b) => Date.parse(a.at) - Date.parse(b.at));
  return { ...found, ...(next && { next }) };
}
