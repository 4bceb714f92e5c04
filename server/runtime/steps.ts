import { sql } from 'drizzle-orm';
import type { Effect } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { runStep } from '../db/schema/index.ts';
import type { Batch } from './batch.ts';

type Fresh = typeof runStep.$inferInsert;
interface Change {
  endedAt?: Date;
  end?: Fresh['end'];
  outputs?: Fresh['outputs'];
  taken?: string;
  notTaken?: string[];
  note?: string;
  /** Null: the step is not stuck any more. Absent: as it was. */
  stuckCause?: string | null;
}

/** What a step that goes on does not say yet. */
const unended = { endedAt: null, end: null, outputs: null, taken: null, notTaken: null, note: null, stuckCause: null };

/** Writes the steps of many runs for the trace, in two statements. One that began and ended in this batch is written once, as it ended. */
export async function writeSteps(tx: Tx, batches: Batch[], at: Date): Promise<void> {
  const fresh: Fresh[] = [];
  const changed: ({ runId: string; key: string } & Change)[] = [];
  for (const { run, effects } of batches) {
    const of = new Map<string, Fresh | Change>();
    for (const e of effects) {
      if (e.effect === 'began') {
        const row: Fresh = { ...unended, runId: run.id, key: e.key, step: e.step, kind: e.kind, name: e.name, beganAt: at, inputs: e.inputs };
        of.set(e.key, row);
        fresh.push(row);
      }
      const change = changeOf(e, at);
      if (!change || !('key' in e)) continue;
      const target = of.get(e.key);
      if (target) Object.assign(target, change);
      else {
        const row = { runId: run.id, key: e.key, ...change };
        of.set(e.key, row);
        changed.push(row);
      }
    }
  }
  await insertAll(tx, runStep, fresh);
  if (changed.length === 0) return;
  const rows = changed.map(({ stuckCause, ...c }) => ({ ...c, stuckCause, stuckSaid: stuckCause !== undefined }));
  await tx.execute(sql`
    update run_step s set
      ended_at = coalesce(c."endedAt", s.ended_at), "end" = coalesce(c."end", s."end"), outputs = coalesce(c.outputs, s.outputs),
      taken = coalesce(c.taken, s.taken), not_taken = coalesce(c."notTaken", s.not_taken), note = coalesce(c.note, s.note),
      stuck_cause = case when c."stuckSaid" then c."stuckCause" else s.stuck_cause end
    from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as c("runId" uuid, key text, "endedAt" timestamptz, "end" text, outputs jsonb,
      taken text, "notTaken" jsonb, note text, "stuckCause" text, "stuckSaid" boolean)
    where s.run_id = c."runId" and s.key = c.key`);
}

function changeOf(e: Effect, at: Date): Change | undefined {
  switch (e.effect) {
    case 'ended':
      return {
        endedAt: at,
        end: e.end,
        outputs: e.outputs,
        ...(e.taken !== undefined && { taken: e.taken }),
        ...(e.notTaken !== undefined && { notTaken: e.notTaken }),
        ...(e.note !== undefined && { note: e.note }),
        stuckCause: null,
      };
    case 'stuck':
      return { stuckCause: e.cause };
    case 'retry':
      return { stuckCause: null };
    case 'mark':
      return { note: e.words };
    default:
      return undefined;
  }
}
