import { randomUUID } from 'node:crypto';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Effect } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Tx } from '../db/database.ts';
import { answerVersion, call, request, runStep, timer } from '../db/schema/index.ts';
import { askNext, closeGates, decide, openGates, remind } from './gates.ts';
import { writeHoldings } from './holdings.ts';
import { addJobs } from './jobs.ts';
import { writeMessages, type Draft } from './messages.ts';
import { closeQuestions, closeTasks, openQuestions, openTasks } from './work.ts';

export interface RunRow {
  id: string;
  number: number;
  requesterId: string;
  /** The number of the last event that was taken. */
  seq: number;
  definition: ItemDefinition;
}
export type Of<K extends Effect['effect']> = Extract<Effect, { effect: K }>;
const only = <K extends Effect['effect']>(effects: Effect[], kind: K) => effects.filter((e): e is Of<K> => e.effect === kind);

/** Writes everything a batch of effects calls for; a handful of statements, whatever their number. */
export async function writeEffects(tx: Tx, run: RunRow, effects: Effect[], at: Date): Promise<void> {
  await writeSteps(tx, run.id, effects, at);
  const drafts: Draft[] = only(effects, 'message').map((e) => ({
    key: e.key,
    to: e.to,
    via: e.by ?? 'mail',
    content: { subject: e.subject, body: e.body },
  }));
  drafts.push(...(await openGates(tx, run, only(effects, 'openGate'), at)));
  await decide(tx, run.id, only(effects, 'decision'), at);
  drafts.push(...(await askNext(tx, run.id, only(effects, 'askNext'), at)));
  drafts.push(...(await closeGates(tx, run.id, only(effects, 'closeGate'), at)));
  drafts.push(...(await openTasks(tx, run, only(effects, 'openTask'), at)));
  drafts.push(...(await closeTasks(tx, run.id, only(effects, 'closeTask'), at)));
  drafts.push(...(await openQuestions(tx, run, only(effects, 'openQuestion'), at)));
  await closeQuestions(tx, run.id, only(effects, 'closeQuestion'), at);
  drafts.push(...(await remind(tx, run.id, only(effects, 'remind'))));
  await writeTimers(tx, run.id, effects);
  await writeAnswers(tx, run, only(effects, 'answers'), at);
  await writeCalls(tx, run.id, only(effects, 'call'), at);
  const cancelled = only(effects, 'cancelCall').map((e) => e.key);
  if (cancelled.length) {
    await tx
      .update(call)
      .set({ status: 'cancelled' })
      .where(and(eq(call.requestId, run.id), inArray(call.key, cancelled), eq(call.status, 'waiting')));
  }
  await writeHoldings(tx, run.id, only(effects, 'gave'), only(effects, 'tookBack'), at);
  await writeMessages(tx, run, drafts, at);
}

/** Steps that began and ended in this batch are written once, as they ended. */
async function writeSteps(tx: Tx, requestId: string, effects: Effect[], at: Date): Promise<void> {
  const fresh = new Map<string, typeof runStep.$inferInsert>();
  const changes = new Map<string, Partial<typeof runStep.$inferInsert>>();
  for (const e of effects) {
    if (e.effect === 'began') fresh.set(e.key, { requestId, key: e.key, step: e.step, kind: e.kind, name: e.name, beganAt: at, inputs: e.inputs });
    const change = changeOf(e, at);
    if (!change || !('key' in e)) continue;
    const target = fresh.get(e.key) ?? changes.get(e.key);
    if (target) Object.assign(target, change);
    else changes.set(e.key, { ...change });
  }
  const rows = [...fresh.values()];
  for (let i = 0; i < rows.length; i += 1000) await tx.insert(runStep).values(rows.slice(i, i + 1000));
  for (const [key, change] of changes)
    await tx
      .update(runStep)
      .set(change)
      .where(and(eq(runStep.requestId, requestId), eq(runStep.key, key)));
}

function changeOf(e: Effect, at: Date): Partial<typeof runStep.$inferInsert> | undefined {
  switch (e.effect) {
    case 'ended':
      return {
        endedAt: at,
        end: e.end,
        outputs: e.outputs,
        taken: e.taken ?? null,
        notTaken: e.notTaken ?? null,
        stuckCause: null,
        ...(e.note !== undefined && { note: e.note }),
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

/** A timer set again moves; the last word in the batch counts. */
async function writeTimers(tx: Tx, requestId: string, effects: Effect[]): Promise<void> {
  const set = new Map<string, { requestId: string; key: string; name: string; dueAt: Date }>();
  const cancelled = new Set<string>();
  for (const e of effects) {
    if (e.effect === 'timer') set.set(`${e.key} ${e.name}`, { requestId, key: e.key, name: e.name, dueAt: new Date(e.at) });
    if (e.effect === 'cancelTimers') {
      cancelled.add(e.key);
      for (const [id, t] of set) if (t.key === e.key) set.delete(id);
    }
  }
  if (cancelled.size) await tx.delete(timer).where(and(eq(timer.requestId, requestId), inArray(timer.key, [...cancelled])));
  const rows = [...set.values()];
  if (rows.length === 0) return;
  await tx
    .insert(timer)
    .values(rows)
    .onConflictDoUpdate({ target: [timer.requestId, timer.key, timer.name], set: { dueAt: sql`excluded.due_at` } });
  await addJobs(
    tx,
    'timer',
    rows.map(({ key, name, dueAt }) => ({ payload: { requestId, key, name }, key: `timer:${requestId}:${key}:${name}`, runAt: dueAt })),
  );
}

async function writeAnswers(tx: Tx, run: RunRow, versions: Of<'answers'>[], at: Date): Promise<void> {
  for (const [i, v] of versions.entries()) {
    await tx.insert(answerVersion).values({ requestId: run.id, seq: run.seq * 100 + i, at, by: v.by, changed: v.changed });
    await tx
      .update(request)
      .set({ answers: sql`${request.answers} || ${JSON.stringify(v.changed)}::jsonb` })
      .where(eq(request.id, run.id));
  }
}

async function writeCalls(tx: Tx, requestId: string, calls: Of<'call'>[], at: Date): Promise<void> {
  if (calls.length === 0) return;
  const rows = calls.map((e) => ({
    id: randomUUID(),
    requestId,
    key: e.key,
    action: e.action,
    inputs: e.inputs,
    idempotencyKey: `${requestId}/${e.key}/${e.round}`,
    retries: e.retries,
    createdAt: at,
    dueAt: at,
  }));
  await tx.insert(call).values(rows);
  await addJobs(
    tx,
    'call',
    rows.map((r) => ({ payload: { callId: r.id }, key: `call:${r.id}` })),
  );
}
