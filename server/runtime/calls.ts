import { and, count, eq } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { call, callTry } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { action } from '../systems/index.ts';
import { Refused } from '../systems/trouble.ts';
import type { Value } from '../../core/values/index.ts';
import { deliverTo, lockRun } from './deliver.ts';
import { addJobs } from './jobs.ts';

type Outcome = { ok: true; outputs: Record<string, Value>; changed: boolean } | { ok: false; said: string; final: boolean };

/**
 * Makes one call, after the commit that asked for it. A crash anywhere in here leaves the call waiting: it is made
 * again with the same key, and the system changes nothing twice.
 */
export async function makeCall(callId: string): Promise<void> {
  const [row] = await db().select().from(call).where(eq(call.id, callId));
  if (!row || row.status !== 'waiting') return;
  const beganAt = now();
  const outcome = await attempt(row);
  await db().transaction(async (tx) => {
    const run = await lockRun(tx, row.requestId);
    const [tried] = await tx.select({ n: count() }).from(callTry).where(eq(callTry.callId, callId));
    const n = (tried?.n ?? 0) + 1;
    await tx.insert(callTry).values({ callId, n, beganAt, endedAt: now(), ok: outcome.ok ? 'yes' : 'no', said: outcome.ok ? 'Done' : outcome.said });
    if (outcome.ok) return settle(tx, run, row, 'succeeded', outcome.outputs, '', outcome.changed);
    log.warn({ callId, action: row.action, n, said: outcome.said }, 'call failed');
    if (outcome.final || n > row.retries.times) return settle(tx, run, row, 'failed', undefined, outcome.said);
    const dueAt = new Date(now().getTime() + row.retries.firstPauseSeconds * 1000 * row.retries.factor ** (n - 1));
    await tx.update(call).set({ dueAt }).where(eq(call.id, callId));
    await addJobs(tx, 'call', [{ payload: { callId }, key: `call:${callId}`, runAt: dueAt }]);
  });
}

async function attempt(row: typeof call.$inferSelect): Promise<Outcome> {
  const act = await action(db(), row.action);
  if (!act) return { ok: false, said: `No registered system offers ${row.action}.`, final: true };
  try {
    const outputs = await act.run(row.inputs, row.idempotencyKey);
    const { unchangedWhen } = act.spec;
    return { ok: true, outputs, changed: unchangedWhen === undefined || outputs[unchangedWhen] !== true };
  } catch (error) {
    if (error instanceof Error && (error.name === 'Refused' || error.name === 'Trouble'))
      return { ok: false, said: error.message, final: error instanceof Refused };
    throw error;
  }
}

async function settle(
  tx: Tx,
  run: Awaited<ReturnType<typeof lockRun>>,
  row: typeof call.$inferSelect,
  status: 'succeeded' | 'failed',
  outputs: Record<string, Value> | undefined,
  cause = '',
  changed = true,
): Promise<void> {
  const [open] = await tx
    .update(call)
    .set({ status, outputs: outputs ?? null })
    .where(and(eq(call.id, row.id), eq(call.status, 'waiting')))
    .returning({ id: call.id });
  // A call that was cancelled while under way: what it did stands in its tries, and the run records the late answer.
  const late = !open;
  if (late)
    await tx
      .update(call)
      .set({ outputs: outputs ?? null })
      .where(eq(call.id, row.id));
  await deliverTo(tx, run, outputs ? { type: 'answered', key: row.key, outputs, changed } : { type: 'callFailed', key: row.key, cause });
}
