import { and, eq, lte } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { timer } from '../db/schema/index.ts';
import { deliverTo, lockRun } from './deliver.ts';
import { addJobs, type Jobs } from './jobs.ts';

/**
 * Gives a run the moment it waited for, exactly once: the timer's row goes in the same transaction as the event. One
 * that was moved meanwhile is waited for again.
 */
export async function fireTimer({ requestId, key, name }: Jobs['timer']): Promise<void> {
  await db().transaction(async (tx) => {
    const run = await lockRun(tx, requestId);
    const mine = and(eq(timer.requestId, requestId), eq(timer.key, key), eq(timer.name, name));
    const [fired] = await tx
      .delete(timer)
      .where(and(mine, lte(timer.dueAt, now())))
      .returning({ key: timer.key });
    if (fired) return void (await deliverTo(tx, run, { type: 'timer', key, name }));
    const [later] = await tx.select({ dueAt: timer.dueAt }).from(timer).where(mine);
    if (later) await addJobs(tx, 'timer', [{ payload: { requestId, key, name }, key: `timer:${requestId}:${key}:${name}`, runAt: later.dueAt }]);
  });
}
