import { eq } from 'drizzle-orm';
import { givenId } from '../../core/steps/index.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { holding } from '../db/schema/index.ts';
import { deliverTo, lockRun } from '../runtime/deliver.ts';
import { whoAnswersFor } from '../systems/whose.ts';

/** A holding whose run is locked, as it is then; undefined where there is none. */
export async function lockHolding(tx: Tx, id: string) {
  const [its] = await tx.select({ runId: holding.runId }).from(holding).where(eq(holding.id, id));
  if (!its) return undefined;
  const run = await lockRun(tx, its.runId);
  const [row] = await tx.select().from(holding).where(eq(holding.id, id));
  return row && { run, row };
}
type Locked = NonNullable<Awaited<ReturnType<typeof lockHolding>>>;

/**
 * Has something taken back: the run that gave it does that, by the action that undoes it or by a task for whoever answers for the
 * system. `by` null: its time is over. False where the run does not know of it any more, or does it already.
 */
export async function endHolding(tx: Tx, { run, row }: Locked, by: string | null, why: string): Promise<boolean> {
  const given = run.state.given?.find((g) => givenId(g) === row.key);
  const hand = given && (await whoAnswersFor(tx, given.action));
  const { ignored } = await deliverTo(tx, run, {
    type: 'givenBack',
    id: row.key,
    why,
    ...(by !== null && { person: by }),
    ...(hand !== undefined && { hand }),
  });
  if (ignored) return false;
  await tx.update(holding).set({ endingAt: now(), endingBy: by, endingWhy: why }).where(eq(holding.id, row.id));
  return true;
}
