import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import { isPerson } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { call, holding } from '../db/schema/index.ts';
import { only, type Of, type Writer } from '../runtime/batch.ts';
import { addJobs } from '../runtime/jobs.ts';
import { actionSpec } from '../systems/index.ts';

/** What a call of an action needs done: its row and its job; one that is not wanted any more is not made. */
export const calls: Writer = async (tx, run, effects, at) => {
  await writeCalls(tx, run.id, only(effects, 'call'), at);
  const cancelled = only(effects, 'cancelCall').map((e) => e.key);
  if (cancelled.length)
    await tx
      .update(call)
      .set({ status: 'cancelled' })
      .where(and(eq(call.runId, run.id), inArray(call.key, cancelled), eq(call.status, 'waiting')));
  return [];
};

/** What was given is written to holdings, what was undone is taken off. */
export const holdings: Writer = async (tx, run, effects, at) => {
  await writeHoldings(tx, run.id, only(effects, 'gave'), only(effects, 'tookBack'), at);
  return [];
};

/** Calls stand to be made, each under its key, and jobs are added that make them. */
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

async function writeHoldings(tx: Tx, runId: string, gave: Of<'gave'>[], took: Of<'tookBack'>[], at: Date): Promise<void> {
  for (const { given } of gave) {
    const gives = (await actionSpec(tx, given.action))?.gives;
    if (!gives) continue;
    const person = given.inputs[gives.person];
    if (!isPerson(person)) continue;
    await tx
      .insert(holding)
      .values({ personId: person.person, kind: gives.kind, what: given.inputs[gives.what] ?? null, runId, key: given.key, since: at })
      .onConflictDoNothing();
  }
  const keys = took.map((e) => e.given.key);
  if (keys.length)
    await tx
      .update(holding)
      .set({ endedAt: at })
      .where(and(eq(holding.runId, runId), inArray(holding.key, keys), isNull(holding.endedAt)));
}
