import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';

import type { Tx } from '../db/database.ts';
import { approval, gate } from '../db/schema/index.ts';
import { instantOf, only, type Of, type RunRow, type Writer } from '../runtime/batch.ts';
import type { Draft } from '../mail/draft.ts';
import { approvalNotNeeded, approverReplaced } from '../mail/no-longer-needed.ts';

/** What a gate needs done: its rows and those of whom it asks, and what they are told. */
export const gates: Writer = async (tx, run, effects, at) => {
  const drafts = await openGates(tx, run, only(effects, 'openGate'), only(effects, 'gateLapses'), at);
  await decide(tx, run.id, only(effects, 'decision'), at);
  drafts.push(...(await changeAsks(tx, run.id, only(effects, 'changeAsks'), at)));
  drafts.push(...(await askNext(tx, run.id, only(effects, 'askNext'), at)));
  drafts.push(...(await closeGates(tx, run.id, only(effects, 'closeGate'), at)));
  return [...drafts, ...(await remindApprovers(tx, run.id, only(effects, 'remind')))];
};

const ofKey = (runId: string, key: string) => and(eq(gate.runId, runId), eq(gate.key, key));

async function openGates(tx: Tx, run: RunRow, opened: Of<'openGate'>[], lapses: Of<'gateLapses'>[], at: Date): Promise<Draft[]> {
  if (!opened.length) return [];
  const gates = opened.map((e) => ({ ...e, id: randomUUID() }));
  const asks = gates.flatMap((g) =>
    g.asks.map((a) => ({
      key: g.key,
      id: randomUUID(),
      gateId: g.id,
      personId: a.person,
      insteadOfId: a.insteadOf ?? null,
      askedAt: at,
      status: a.waits ? ('later' as const) : ('waiting' as const),
    })),
  );
  await tx.insert(gate).values(
    gates.map((g) => ({
      id: g.id,
      runId: run.id,
      key: g.key,
      name: g.name,
      rule: g.rule,
      corrects: g.corrects,
      sendBack: g.sendBack,
      lapsesAt: instantOf(lapses, g.key),
      openedAt: at,
    })),
  );
  if (asks.length) await tx.insert(approval).values(asks.map(({ key: _, ...row }) => row));
  return asks.filter((a) => a.status === 'waiting').map((a) => ({ key: a.key, to: a.personId, approvalId: a.id }));
}

/** Who is asked has changed while a gate is open: those asked besides are asked like the others, those no more are told. */
async function changeAsks(tx: Tx, runId: string, changes: Of<'changeAsks'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of changes) {
    const [row] = await tx
      .select({ id: gate.id, name: gate.name })
      .from(gate)
      .where(and(ofKey(runId, e.key), isNull(gate.closedAt)));
    if (!row) continue;
    if (e.released.length) {
      const told = await tx
        .update(approval)
        .set({ status: 'released', overAt: at })
        .where(and(eq(approval.gateId, row.id), inArray(approval.personId, e.released), inArray(approval.status, ['waiting', 'later'])))
        .returning({ personId: approval.personId });
      drafts.push(...told.map((t) => approverReplaced(t.personId, row.name, e.key)));
    }
    for (const a of e.added) {
      const status = a.waits ? ('later' as const) : ('waiting' as const);
      const again = { insteadOfId: a.insteadOf ?? null, askedAt: at, status, overAt: null };
      const [made] = await tx
        .insert(approval)
        .values({ gateId: row.id, personId: a.person, ...again })
        .onConflictDoUpdate({ target: [approval.gateId, approval.personId], set: again })
        .returning({ id: approval.id });
      if (status === 'waiting') drafts.push({ key: e.key, to: a.person, approvalId: made!.id });
    }
  }
  return drafts;
}

/** The turn of the next approver has come. */
async function askNext(tx: Tx, runId: string, next: Of<'askNext'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of next) {
    const [row] = await tx
      .update(approval)
      .set({ status: 'waiting', askedAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), ofKey(runId, e.key), eq(approval.personId, e.person), eq(approval.status, 'later')))
      .returning({ id: approval.id });
    if (row) drafts.push({ key: e.key, to: e.person, approvalId: row.id });
  }
  return drafts;
}

async function decide(tx: Tx, runId: string, decisions: Of<'decision'>[], at: Date): Promise<void> {
  for (const e of decisions) {
    await tx
      .update(approval)
      .set({ status: e.decision === 'approve' ? 'approved' : 'declined', comment: e.comment, decidedAt: at, overAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), ofKey(runId, e.key), eq(approval.personId, e.person)));
  }
}

/** Those who were asked and have not answered are released, and told why. */
async function closeGates(tx: Tx, runId: string, closed: Of<'closeGate'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of closed) {
    const [row] = await tx
      .update(gate)
      .set({ closedAt: at, result: e.result, decidedBy: e.decidedBy ?? null })
      .where(and(ofKey(runId, e.key), isNull(gate.closedAt)))
      .returning({ id: gate.id, name: gate.name });
    if (!row) continue;
    const waiting = await tx
      .select({ personId: approval.personId })
      .from(approval)
      .where(and(eq(approval.gateId, row.id), eq(approval.status, 'waiting')));
    await tx
      .update(approval)
      .set({ status: 'released', overAt: at })
      .where(and(eq(approval.gateId, row.id), inArray(approval.status, ['waiting', 'later'])));
    drafts.push(...waiting.filter((w) => w.personId !== e.decidedBy).map((w) => approvalNotNeeded(w.personId, row.name, e)));
  }
  return drafts;
}

/** Reminders to approvers go out as the mail that asked, once more. */
async function remindApprovers(tx: Tx, runId: string, reminders: Of<'remind'>[]): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of reminders) {
    const rows = e.people.length
      ? await tx
          .select({ id: approval.id, personId: approval.personId })
          .from(approval)
          .innerJoin(gate, eq(gate.id, approval.gateId))
          .where(and(ofKey(runId, e.key), inArray(approval.personId, e.people), eq(approval.status, 'waiting')))
      : [];
    drafts.push(...rows.map((r) => ({ key: e.key, to: r.personId, approvalId: r.id, reminder: true })));
  }
  return drafts;
}
