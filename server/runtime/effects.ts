import { randomUUID } from 'node:crypto';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Effect } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Tx } from '../db/database.ts';
import { answerVersion, call, serviceCase } from '../db/schema/index.ts';
import { askNext, changeAsks, closeGates, decide, openGates, remind } from './gates.ts';
import { writeHoldings } from './holdings.ts';
import { addJobs } from './jobs.ts';
import { writeMessages, type Draft } from './messages.ts';
import { writeSteps } from './steps.ts';
import { writeTimers } from './timers.ts';
import { closeQuestions, closeTasks, openQuestions, openTasks } from './work.ts';

export interface RunRow {
  id: string;
  caseId: string;
  /** Of its case. */
  number: number;
  requesterId: string;
  /** The number of the last event that was taken. */
  seq: number;
  definition: ItemDefinition;
}
export type Of<K extends Effect['effect']> = Extract<Effect, { effect: K }>;
const only = <K extends Effect['effect']>(effects: Effect[], kind: K) => effects.filter((e): e is Of<K> => e.effect === kind);

/** What one run's events call for. */
export interface Batch {
  run: RunRow;
  effects: Effect[];
}

/** Effects that stand in the trace and in the timers only, or that others speak for. */
const everyday = new Set<Effect['effect']>(['began', 'ended', 'stuck', 'retry', 'mark', 'timer', 'cancelTimers', 'finished']);

/** Writes everything that the effects of many runs call for; the everyday ones of all of them together. */
export async function writeEffects(tx: Tx, batches: Batch[], at: Date): Promise<void> {
  await writeSteps(tx, batches, at);
  await writeTimers(tx, batches);
  for (const { run, effects } of batches) if (effects.some((e) => !everyday.has(e.effect))) await writeWork(tx, run, effects, at);
}

/** Writes what people and systems are asked, told and given. What opens, is asked and told is written together; what closes, a statement each. */
async function writeWork(tx: Tx, run: RunRow, effects: Effect[], at: Date): Promise<void> {
  const drafts: Draft[] = only(effects, 'message').map((e) => ({
    key: e.key,
    to: e.to,
    via: e.by ?? 'mail',
    content: { subject: e.subject, body: e.body },
  }));
  drafts.push(...(await openGates(tx, run, only(effects, 'openGate'), at)));
  await decide(tx, run.id, only(effects, 'decision'), at);
  drafts.push(...(await changeAsks(tx, run.id, only(effects, 'changeAsks'), at)));
  drafts.push(...(await askNext(tx, run.id, only(effects, 'askNext'), at)));
  drafts.push(...(await closeGates(tx, run.id, only(effects, 'closeGate'), at)));
  drafts.push(...(await openTasks(tx, run, only(effects, 'openTask'), at)));
  drafts.push(...(await closeTasks(tx, run.id, only(effects, 'closeTask'), at)));
  drafts.push(...(await openQuestions(tx, run, only(effects, 'openQuestion'), at)));
  await closeQuestions(tx, run.id, only(effects, 'closeQuestion'), at);
  drafts.push(...(await remind(tx, run.id, only(effects, 'remind'))));
  await writeAnswers(tx, run, only(effects, 'answers'), at);
  await writeCalls(tx, run.id, only(effects, 'call'), at);
  const cancelled = only(effects, 'cancelCall').map((e) => e.key);
  if (cancelled.length) {
    await tx
      .update(call)
      .set({ status: 'cancelled' })
      .where(and(eq(call.runId, run.id), inArray(call.key, cancelled), eq(call.status, 'waiting')));
  }
  await writeHoldings(tx, run.id, only(effects, 'gave'), only(effects, 'tookBack'), at);
  await writeMessages(tx, run, drafts, at);
}

async function writeAnswers(tx: Tx, run: RunRow, versions: Of<'answers'>[], at: Date): Promise<void> {
  for (const [i, v] of versions.entries()) {
    await tx.insert(answerVersion).values({ runId: run.id, seq: run.seq * 100 + i, at, by: v.by, changed: v.changed });
    await tx
      .update(serviceCase)
      .set({ answers: sql`${serviceCase.answers} || ${JSON.stringify(v.changed)}::jsonb` })
      .where(eq(serviceCase.id, run.caseId));
  }
}

async function writeCalls(tx: Tx, runId: string, calls: Of<'call'>[], at: Date): Promise<void> {
  if (calls.length === 0) return;
  const rows = calls.map((e) => ({
    id: randomUUID(),
    runId,
    key: e.key,
    action: e.action,
    inputs: e.inputs,
    idempotencyKey: `${runId}/${e.key}/${e.round}`,
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
