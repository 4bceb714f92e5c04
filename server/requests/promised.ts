import { and, asc, inArray, isNotNull } from 'drizzle-orm';
import type { Calendar } from '../../core/calendar/index.ts';
import { milestonesOf } from '../../core/plans/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { standingOf, tideLine, type Clock, type Standing, type TicketPromise, type TideLine } from '../../core/targets/index.ts';
import { zoneOf } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Reader } from '../db/database.ts';
import { person, question, runStep } from '../db/schema/index.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { definitionOf } from '../items/definitions.ts';

/** A promise of a request and where it stands, ready to be drawn. */
export interface Promised {
  standing: Standing;
  tide: TideLine;
}

/** At which share of what was promised it is said to be near, in percent. */
export const nearOf = (d: Pick<ItemDefinition, 'watched'>): number => d.watched?.at ?? 75;

/** A run of a request as its promises are reckoned. */
export interface PromisedRun {
  id: string;
  openedAt: Date;
  endedAt: Date | null;
  requesterId: string;
  definition: ItemDefinition;
}

/** One promise of a run, with the clock it goes by: of the whole, or of a milestone, by its id. */
export interface RunPromise {
  of: string | undefined;
  /** What it is called: a milestone's words. */
  words: string | undefined;
  promise: Pick<TicketPromise, 'within' | 'warnAt'>;
  clock: Clock;
}

const hasPromise = (d: ItemDefinition): boolean => d.promise !== undefined || milestonesOf(d.plan).some((m) => m.promised !== undefined);

/**
 * What is promised of runs, by run: of the whole and of milestones, in the working time of where whoever asked works. What waits for their
 * answer does not count. Runs of which nothing is promised are left out; however many there are, the questions to the database are four.
 */
export async function promisesOfRuns(tx: Reader, runs: readonly PromisedRun[]): Promise<Map<string, { promises: RunPromise[]; desk: Calendar }>> {
  const promised = runs.filter((r) => hasPromise(r.definition));
  if (promised.length === 0) return new Map();
  const ids = promised.map((r) => r.id);
  // One after another: inside a transaction there is one connection.
  const asked = await tx
    .select({ run: question.runId, from: question.openedAt, to: question.closedAt })
    .from(question)
    .where(inArray(question.runId, ids))
    .orderBy(asc(question.openedAt));
  const reached = await tx
    .select({ run: runStep.runId, step: runStep.step, at: runStep.endedAt })
    .from(runStep)
    .where(and(inArray(runStep.runId, ids), inArray(runStep.kind, ['mark']), isNotNull(runStep.endedAt)))
    .orderBy(asc(runStep.order));
  const requesters = [...new Set(promised.map((r) => r.requesterId))];
  const places = new Map(
    (await tx.select({ id: person.id, place: person.locationId, zone: zoneOf }).from(person).where(inArray(person.id, requesters))).map(
      ({ id, ...where }) => [id, where],
    ),
  );
  const [askedOf, reachedOf] = [byRun(asked), byRun(reached)];
  const calendars = calendarsOf(tx);
  const found = new Map<string, { promises: RunPromise[]; desk: Calendar }>();
  for (const r of promised) {
    const held = (askedOf.get(r.id) ?? []).map((q) => ({ from: q.from.toISOString(), ...(q.to && { to: q.to.toISOString() }), why: 'asked' }));
    const firstAt = new Map((reachedOf.get(r.id) ?? []).toReversed().map((s) => [s.step, s.at]));
    const warnAt = nearOf(r.definition);
    const promise = (of: string | undefined, words: string | undefined, length: string, stopped: Date | null): RunPromise => ({
      of,
      words,
      promise: { within: { length, counted: 'working' }, warnAt },
      clock: { began: r.openedAt.toISOString(), ...(stopped && { stopped: stopped.toISOString() }), held },
    });
    found.set(r.id, {
      desk: await calendars.of(places.get(r.requesterId) ?? { place: null, zone: 'utc' }),
      promises: [
        ...(r.definition.promise === undefined ? [] : [promise(undefined, undefined, r.definition.promise, r.endedAt)]),
        ...milestonesOf(r.definition.plan).flatMap((m) =>
          m.promised === undefined ? [] : [promise(m.id, m.words, m.promised, firstAt.get(m.id) ?? r.endedAt)],
        ),
      ],
    });
  }
  return found;
}

/** Runs with the definitions of their revisions, each of which is read once. */
export const withDefinitions = async <T extends Omit<PromisedRun, 'id' | 'definition'> & { runId: string; revisionId: string }>(
  rows: readonly T[],
): Promise<PromisedRun[]> => {
  const definitions = new Map<string, ItemDefinition>();
  for (const { revisionId } of rows) if (!definitions.has(revisionId)) definitions.set(revisionId, await definitionOf(db(), revisionId));
  return rows.map((r) => ({ ...r, id: r.runId, definition: definitions.get(r.revisionId)! }));
};

function byRun<T extends { run: string }>(rows: T[]): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const r of rows) found.set(r.run, [...(found.get(r.run) ?? []), r]);
  return found;
}

/** Where the promises of runs stand now, by run: of the whole, and by milestone (its id). */
export async function promisedOf(
  runs: readonly PromisedRun[],
  tx: Reader = db(),
): Promise<Map<string, { whole: Promised | undefined; milestones: Map<string, Promised> }>> {
  const at = now().toISOString();
  return new Map(
    [...(await promisesOfRuns(tx, runs))].map(([id, { promises, desk }]) => {
      const stands = promises.map(({ of, promise, clock }) => {
        const standing = standingOf(promise, clock, desk, at);
        return { of, promised: { standing, tide: tideLine(standing) } };
      });
      return [
        id,
        {
          whole: stands.find((s) => s.of === undefined)?.promised,
          milestones: new Map(stands.flatMap((s) => (s.of === undefined ? [] : [[s.of, s.promised]]))),
        },
      ];
    }),
  );
}
