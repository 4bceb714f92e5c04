import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { Effect } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Tx } from '../db/database.ts';
import { approval, call, gate, runStep } from '../db/schema/index.ts';
import { addJobs } from './jobs.ts';
import { writeMessages, type Draft } from './messages.ts';

export interface RunRow {
  id: string;
  number: number;
  requesterId: string;
  definition: ItemDefinition;
}
type Of<K extends Effect['effect']> = Extract<Effect, { effect: K }>;
const only = <K extends Effect['effect']>(effects: Effect[], kind: K) => effects.filter((e): e is Of<K> => e.effect === kind);

/** Writes everything a batch of effects calls for; a handful of statements, whatever their number. */
export async function writeEffects(tx: Tx, run: RunRow, effects: Effect[], at: Date): Promise<void> {
  await writeSteps(tx, run.id, effects, at);
  const drafts: Draft[] = only(effects, 'message').map((e) => ({
    key: e.key,
    to: e.to,
    content: { subject: e.subject, body: e.body, values: e.values },
  }));
  drafts.push(...(await openGates(tx, run, only(effects, 'openGate'), at)));
  await decide(tx, run.id, only(effects, 'decision'), at);
  drafts.push(...(await closeGates(tx, run.id, only(effects, 'closeGate'), at)));
  await writeCalls(tx, run.id, only(effects, 'call'), at);
  const cancelled = only(effects, 'cancelCall').map((e) => e.key);
  if (cancelled.length) {
    await tx
      .update(call)
      .set({ status: 'cancelled' })
      .where(and(eq(call.requestId, run.id), inArray(call.key, cancelled), eq(call.status, 'waiting')));
  }
  await writeMessages(tx, run, drafts, at);
}

/** Steps that began and ended in this batch are written once, as they ended. */
async function writeSteps(tx: Tx, requestId: string, effects: Effect[], at: Date): Promise<void> {
  const fresh = new Map<string, typeof runStep.$inferInsert>();
  const changes = new Map<string, Partial<typeof runStep.$inferInsert>>();
  for (const e of effects) {
    if (e.effect === 'began') fresh.set(e.key, { requestId, key: e.key, step: e.step, kind: e.kind, name: e.name, beganAt: at, inputs: e.inputs });
    const change =
      e.effect === 'ended'
        ? {
            endedAt: at,
            end: e.end,
            outputs: e.outputs,
            taken: e.taken ?? null,
            notTaken: e.notTaken ?? null,
            note: e.note ?? null,
            stuckCause: null,
          }
        : e.effect === 'stuck'
          ? { stuckCause: e.cause }
          : e.effect === 'call'
            ? { stuckCause: null }
            : undefined;
    if (!change || !('key' in e)) continue;
    const target = fresh.get(e.key) ?? changes.get(e.key);
    if (target) Object.assign(target, change);
    else changes.set(e.key, { ...change });
  }
  if (fresh.size) await tx.insert(runStep).values([...fresh.values()]);
  for (const [key, change] of changes)
    await tx
      .update(runStep)
      .set(change)
      .where(and(eq(runStep.requestId, requestId), eq(runStep.key, key)));
}

async function openGates(tx: Tx, run: RunRow, opened: Of<'openGate'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of opened) {
    const gateId = randomUUID();
    await tx.insert(gate).values({ id: gateId, requestId: run.id, key: e.key, name: e.name, rule: e.rule, openedAt: at });
    const asks = e.asks.map((a) => ({ id: randomUUID(), gateId, personId: a.person, insteadOfId: a.insteadOf ?? null, askedAt: at }));
    await tx.insert(approval).values(asks);
    drafts.push(...asks.map((a) => ({ key: e.key, to: a.personId, approvalId: a.id })));
  }
  return drafts;
}

async function decide(tx: Tx, requestId: string, decisions: Of<'decision'>[], at: Date): Promise<void> {
  for (const e of decisions) {
    await tx
      .update(approval)
      .set({ status: e.decision === 'approve' ? 'approved' : 'declined', comment: e.comment, decidedAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), eq(gate.requestId, requestId), eq(gate.key, e.key), eq(approval.personId, e.person)));
  }
}

/** Those who were asked and have not answered are released, and told why. */
async function closeGates(tx: Tx, requestId: string, closed: Of<'closeGate'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of closed) {
    const [row] = await tx
      .update(gate)
      .set({ closedAt: at, result: e.result, decidedBy: e.decidedBy ?? null })
      .where(and(eq(gate.requestId, requestId), eq(gate.key, e.key), isNull(gate.closedAt)))
      .returning({ id: gate.id, name: gate.name });
    if (!row) continue;
    const released = await tx
      .update(approval)
      .set({ status: 'released' })
      .where(and(eq(approval.gateId, row.id), eq(approval.status, 'waiting')))
      .returning({ personId: approval.personId });
    const why = e.result === 'withdrawn' ? 'The request was withdrawn' : `The request was ${e.result}`;
    for (const r of released) {
      drafts.push({
        key: e.key,
        to: r.personId,
        content: {
          subject: [[{ text: `No longer needed: ${row.name}, ` }, { ref: 'request.number' }]],
          body: e.decidedBy
            ? [[{ text: `${why} by ` }, { ref: 'request.decider' }, { text: '. You need not answer any more.' }]]
            : [[{ text: `${why}. You need not answer any more.` }]],
          values: e.decidedBy ? { 'request.decider': { person: e.decidedBy } } : {},
        },
      });
    }
  }
  return drafts;
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
