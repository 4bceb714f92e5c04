import { sql } from 'drizzle-orm';
import type { RunEvent } from '../../core/engine/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { batched } from './batched.ts';
import { deliverAll, lockRuns } from './deliver.ts';
import { addJobs, type Jobs } from './jobs.ts';
import { timerJob } from './timers.ts';

type Named = Jobs['timer'];
interface Row extends Record<string, unknown>, Named {
  dueAt: string;
}
/** The timers named, as rows a statement can join. */
const named = (timers: Named[]) =>
  sql`jsonb_to_recordset(${JSON.stringify(timers)}::jsonb) as n("runId" uuid, key text, name text)
      where t.run_id = n."runId" and t.key = n.key and t.name = n.name`;
const columns = sql`t.run_id as "runId", t.key, t.name, t.due_at as "dueAt"`;

/**
 * Gives runs the moments they waited for, each exactly once: a timer's row goes in the same transaction as its event.
 * One that was moved meanwhile is waited for again.
 */
async function fireAll(timers: Named[]): Promise<void[]> {
  await db().transaction(async (tx) => {
    const runs = await lockRuns(
      tx,
      timers.map((t) => t.runId),
    );
    const fired = await tx.execute<Row>(
      sql`delete from timer t using ${named(timers)} and t.due_at <= ${now().toISOString()}::timestamptz returning ${columns}`,
    );
    const due = new Map<string, RunEvent[]>();
    for (const t of fired.rows.toSorted((a, b) => Date.parse(a.dueAt) - Date.parse(b.dueAt)))
      due.set(t.runId, [...(due.get(t.runId) ?? []), { type: 'timer', key: t.key, name: t.name }]);
    await deliverAll(
      tx,
      runs.map((run) => ({ run, events: due.get(run.id) ?? [] })).filter((given) => given.events.length > 0),
    );
    if (fired.rows.length === timers.length) return;
    const later = await tx.execute<Row>(sql`select ${columns} from timer t, ${named(timers)}`);
    await addJobs(
      tx,
      'timer',
      later.rows.map((t) => timerJob(t, new Date(t.dueAt))),
    );
  });
  return timers.map(() => undefined);
}

export const fireTimer: (timer: Named) => Promise<void> = batched(fireAll);
