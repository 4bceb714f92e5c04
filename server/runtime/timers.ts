import { sql } from 'drizzle-orm';
import type { Tx } from '../db/database.ts';
import { timer } from '../db/schema/index.ts';
import type { Batch } from './batch.ts';
import { addJobs, type Jobs } from './jobs.ts';

/** The job that waits for a timer. Its key keeps it one. */
export const timerJob = ({ runId, key, name }: Jobs['timer'], dueAt: Date) => ({
  payload: { runId, key, name },
  key: `timer:${runId}:${key}:${name}`,
  runAt: dueAt,
});

/** Sets and cancels the timers of many runs. A timer set again moves; the last word in the batch counts. */
export async function writeTimers(tx: Tx, batches: Batch[]): Promise<void> {
  const set = new Map<string, typeof timer.$inferInsert>();
  const cancelled = new Map<string, { runId: string; key: string }>();
  for (const { run, effects } of batches) {
    for (const e of effects) {
      if (e.effect === 'timer') set.set(`${run.id} ${e.key} ${e.name}`, { runId: run.id, key: e.key, name: e.name, dueAt: new Date(e.at) });
      if (e.effect === 'cancelTimers') {
        cancelled.set(`${run.id} ${e.key}`, { runId: run.id, key: e.key });
        for (const [id, t] of set) if (t.runId === run.id && t.key === e.key) set.delete(id);
      }
    }
  }
  if (cancelled.size) {
    await tx.execute(sql`
      delete from timer t using jsonb_to_recordset(${JSON.stringify([...cancelled.values()])}::jsonb) as n("runId" uuid, key text)
      where t.run_id = n."runId" and t.key = n.key`);
  }
  const rows = [...set.values()];
  if (rows.length === 0) return;
  await tx
    .insert(timer)
    .values(rows)
    .onConflictDoUpdate({ target: [timer.runId, timer.key, timer.name], set: { dueAt: sql`excluded.due_at` } });
  await addJobs(
    tx,
    'timer',
    rows.map((t) => timerJob(t, t.dueAt)),
  );
}
