import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { Said } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { approval, gate, question } from '../db/schema/index.ts';
import type { Of, RunRow } from './effects.ts';
import { fixed, type Draft } from './messages.ts';

const ofKey = (runId: string, key: string) => and(eq(gate.runId, runId), eq(gate.key, key));

export async function openGates(tx: Tx, run: RunRow, opened: Of<'openGate'>[], at: Date): Promise<Draft[]> {
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
      lapsesAt: g.lapsesAt ? new Date(g.lapsesAt) : null,
      openedAt: at,
    })),
  );
  if (asks.length) await tx.insert(approval).values(asks.map(({ key: _, ...row }) => row));
  return asks.filter((a) => a.status === 'waiting').map((a) => ({ key: a.key, to: a.personId, approvalId: a.id }));
}

/** Who is asked has changed while a gate is open: those asked besides are asked like the others, those no more are told. */
export async function changeAsks(tx: Tx, runId: string, changes: Of<'changeAsks'>[], at: Date): Promise<Draft[]> {
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
      drafts.push(
        ...told.map((t) => noLongerNeeded(e.key, t.personId, row.name, fixed('Somebody else is asked in your place. You need not answer any more.'))),
      );
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

const noLongerNeeded = (key: string, to: string, name: string, body: Said): Draft => ({
  key,
  to,
  content: { subject: { text: [[{ text: `No longer needed: ${name}, ` }, { ref: 'request.number' }]], values: {} }, body },
});

/** The turn of the next approver has come. */
export async function askNext(tx: Tx, runId: string, next: Of<'askNext'>[], at: Date): Promise<Draft[]> {
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

export async function decide(tx: Tx, runId: string, decisions: Of<'decision'>[], at: Date): Promise<void> {
  for (const e of decisions) {
    await tx
      .update(approval)
      .set({ status: e.decision === 'approve' ? 'approved' : 'declined', comment: e.comment, decidedAt: at, overAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), ofKey(runId, e.key), eq(approval.personId, e.person)));
  }
}

const whyReleased = {
  approved: 'The request was approved',
  declined: 'The request was declined',
  lapsed: 'Nobody answered in time, so the request was closed',
  returned: 'The request was sent back to its requester; you are asked again when it comes back',
  withdrawn: 'The request was withdrawn, or went on without this',
};

/** Those who were asked and have not answered are released, and told why. */
export async function closeGates(tx: Tx, runId: string, closed: Of<'closeGate'>[], at: Date): Promise<Draft[]> {
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
    const by = e.decidedBy;
    for (const r of waiting.filter((w) => w.personId !== by)) {
      const body: Said = by
        ? {
            text: [[{ text: `${whyReleased[e.result]} by ` }, { ref: 'request.decider' }, { text: '. You need not answer any more.' }]],
            values: { 'request.decider': { person: by } },
          }
        : fixed(`${whyReleased[e.result]}. You need not answer any more.`);
      drafts.push(noLongerNeeded(e.key, r.personId, row.name, body));
    }
  }
  return drafts;
}

/** Reminders to approvers go out as the mail that asked, once more; to a requester with a question, the question. */
export async function remind(tx: Tx, runId: string, reminders: Of<'remind'>[]): Promise<Draft[]> {
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
    const [asked] = await tx
      .select({ toId: question.toId, words: question.words, name: question.name })
      .from(question)
      .where(and(eq(question.runId, runId), eq(question.key, e.key), isNull(question.closedAt)));
    if (asked)
      drafts.push({ key: e.key, to: asked.toId, page: 'request', content: { subject: fixed(`Reminder: ${asked.name}`), body: fixed(asked.words) } });
  }
  return drafts;
}
