import { and, asc, eq, isNotNull } from 'drizzle-orm';
import { milestonesOf } from '../../core/plans/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { standingOf, tideLine, type Standing, type TideLine } from '../../core/targets/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { question, runStep } from '../db/schema/index.ts';
import { calendarsOf } from '../hours/nearest.ts';

/** A promise of a request and where it stands, ready to be drawn. */
export interface Promised {
  standing: Standing;
  tide: TideLine;
}

/** At which share of what was promised it is said to be near, in percent. */
const nearAt = 75;

/**
 * What is promised of a request, as a whole and by milestone (its id), in the working time of where whoever asked works. What waits for
 * their answer does not count.
 */
export async function promisedOf(
  run: { id: string; openedAt: Date; endedAt: Date | null; requesterId: string; zone: string },
  definition: ItemDefinition,
): Promise<{ whole: Promised | undefined; milestones: Map<string, Promised> }> {
  const promised = milestonesOf(definition.plan).flatMap((m) => (m.promised === undefined ? [] : [{ id: m.id, within: m.promised }]));
  if (promised.length === 0 && definition.promise === undefined) return { whole: undefined, milestones: new Map() };
  const [asked, reached, desk] = await Promise.all([
    db().select({ from: question.openedAt, to: question.closedAt }).from(question).where(eq(question.runId, run.id)).orderBy(asc(question.openedAt)),
    db()
      .select({ step: runStep.step, at: runStep.endedAt })
      .from(runStep)
      .where(and(eq(runStep.runId, run.id), eq(runStep.kind, 'mark'), isNotNull(runStep.endedAt)))
      .orderBy(asc(runStep.order)),
    calendarsOf(db()).of({ person: run.requesterId, zone: run.zone }),
  ]);
  const held = asked.map((q) => ({ from: q.from.toISOString(), ...(q.to && { to: q.to.toISOString() }), why: 'asked' }));
  const standing = (length: string, stopped: Date | null): Promised => {
    const clock = { began: run.openedAt.toISOString(), ...(stopped && { stopped: stopped.toISOString() }), held };
    const its = standingOf({ within: { length, counted: 'working' }, warnAt: nearAt }, clock, desk, now().toISOString());
    return { standing: its, tide: tideLine(its) };
  };
  const firstAt = new Map(reached.toReversed().map((r) => [r.step, r.at]));
  return {
    whole: definition.promise === undefined ? undefined : standing(definition.promise, run.endedAt),
    milestones: new Map(promised.map((m) => [m.id, standing(m.within, firstAt.get(m.id) ?? run.endedAt)])),
  };
}
