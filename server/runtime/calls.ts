import { and, count, eq } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { call, callTry } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { action } from '../systems/index.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { heard, own, setOwn } from '../../core/boundary/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import { isEmpty, isOfType, namedIn, typeWords, Value } from '../../core/values/index.ts';
import { existing } from '../people/existing.ts';
import { deliverTo, lockRun } from './deliver.ts';
import { addJobs } from './jobs.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';

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
    const run = await lockRun(tx, row.runId);
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
    const answered = await act.run(row.inputs, row.idempotencyKey);
    const outputs = await outputsOf(act.spec, answered);
    const { unchangedWhen } = act.spec;
    return { ok: true, outputs, changed: unchangedWhen === undefined || own(outputs, unchangedWhen) !== true };
  } catch (error) {
    // Whatever a call runs into is an answer: nothing a system says may keep the call from being told.
    if (error instanceof PermanentError || error instanceof TransientError)
      return { ok: false, said: heard(error.message, 1000), final: error instanceof PermanentError };
    // The database is away, or was: the call is made again when it is back, under the same key.
    if (isDatabaseTrouble(error)) throw error;
    return { ok: false, said: heard(`Unexpected: ${causeWords(error)}`, 1000), final: true };
  }
}

/** An answer held against what the action says it gives: each value of its type, people and groups that there are. */
async function outputsOf(spec: ActionSpec, answered: Record<string, Value>): Promise<Record<string, Value>> {
  const outputs: Record<string, Value> = {};
  for (const o of spec.outputs) {
    const read = Value.safeParse(own(answered, o.name) ?? null);
    if (!read.success || !isOfType(read.data, o.type))
      throw new PermanentError(`${spec.system} answered something as “${o.label}” that is not a ${typeWords[o.type]}.`);
    if (isEmpty(read.data) && o.always) throw new PermanentError(`${spec.system} answered nothing as “${o.label}”.`);
    setOwn(outputs, o.name, read.data);
  }
  const exists = await existing(db(), Object.values(outputs));
  for (const o of spec.outputs)
    for (const { kind, id } of namedIn(own(outputs, o.name)))
      if (!exists.has(kind, id)) throw new PermanentError(`${spec.system} answered a ${typeWords[kind]} as “${o.label}” that is not known here.`);
  return outputs;
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
