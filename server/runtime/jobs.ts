import { sql } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';

/** The work a worker does, by name, with what each needs. */
export interface Jobs {
  call: { callId: string };
  mail: { messageId: string };
  timer: { requestId: string; key: string; name: string };
  syncDirectory: Record<string, never>;
  sweep: Record<string, never>;
  readChat: Record<string, never>;
}

/**
 * Adds jobs in the caller's transaction: they exist exactly when its data does. A key keeps one job a thing; adding
 * again moves the waiting one.
 */
export async function addJobs<K extends keyof Jobs>(tx: Reader, task: K, jobs: { payload: Jobs[K]; key: string; runAt?: Date }[]): Promise<void> {
  if (jobs.length === 0) return;
  const rows = jobs.map((j) => sql`(${j.key}::text, ${JSON.stringify(j.payload)}::json, ${j.runAt?.toISOString() ?? null}::timestamptz)`);
  await tx.execute(sql`
    select graphile_worker.add_job(${task}, payload := j.payload, run_at := coalesce(j.run_at, now()), job_key := j.key, max_attempts := 25)
    from (values ${sql.join(rows, sql`, `)}) as j(key, payload, run_at)`);
}
