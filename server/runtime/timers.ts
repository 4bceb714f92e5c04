import { and, eq } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { request, timer } from '../db/schema/index.ts';
import { deliver } from './deliver.ts';
import { addJobs, type Jobs } from './jobs.ts';

/**
 * Gives a run the moment it waited for, exactly once: the timer's row goes in the same transaction as the event. One
 * that was moved meanwhile is waited for again.
 */
export async function fireTimer({ requestId, key, name }: Jobs['timer']): Promise<void> {
  await db().transaction(async (tx) => {
    // The run's row is locked first, as everywhere, so that two transactions never wait for each other.
    await tx.select({ id: request.id }).from(request).where(eq(request.id, requestId)).for('update');
    const mine = and(eq(timer.requestId, requestId), eq(timer.key, key), eq(timer.name, name));
    const [row] = await tx.select({ dueAt: timer.dueAt }).from(timer).where(mine);
    if (!row) return;
    if (row.dueAt > now()) {
      await addJobs(tx, 'timer', [{ payload: { requestId, key, name }, key: `timer:${requestId}:${key}:${name}`, runAt: row.dueAt }]);
      return;
    }
    await tx.delete(timer).where(mine);
    await deliver(tx, requestId, { type: 'timer', key, name });
  });
}
