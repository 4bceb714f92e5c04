import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { approval, gate } from '../db/schema/index.ts';
import { instantOf, only, type About, type Of, type RunRow, type Writer } from '../runtime/batch.ts';
import { approvalNotNeeded, approverReplaced } from '../mail/no-longer-needed.ts';

/** What a gate needs done: its rows and those of whom it asks, and what they are told. */
export const gates: Writer = async (tx, batches, at) => {
  const drafts = await openGates(tx, only(batches, 'openGate'), only(batches, 'gateLapses'), at);
  await decide(tx, only(batches, 'decision'), at);
  drafts.push(...(await changeAsks(tx, only(batches, 'changeAsks'), at)));
  drafts.push(...(await askNext(tx, only(batches, 'askNext'), at)));
  drafts.push(...(await closeGates(tx, only(batches, 'closeGate'), at)));
  return [...drafts, ...(await remindApprovers(tx, only(batches, 'remind')))];
};

const ofStep = (e: { run: RunRow; key: string }) => and(eq(gate.runId, e.run.id), eq(gate.key, e.key));

async function openGates(tx: Tx, opened: Of<'openGate'>[], lapses: Of<'gateLapses'>[], at: Date): Promise<About[]> {
  if (!opened.length) return [];
  const gates = opened.map((e) => ({ ...e, id: randomUUID() }));
  const asks = gates.flatMap((g) =>
    g.asks.map((a) => ({
      run: g.run,
      key: g.key,
      id: randomUUID(),
      gateId: g.id,
      personId: a.person,
      insteadOfId: a.insteadOf ?? null,
      askedAt: at,
      status: a.waits ? ('later' as const) : ('waiting' as const),
    })),
  );
  await insertAll(
    tx,
    gate,
    gates.map((g) => ({
      id: g.id,
      runId: g.run.id,
      key: g.key,
      name: g.name,
      rule: g.rule,
      corrects: g.corrects,
      sendBack: g.sendBack,
      lapsesAt: instantOf(lapses, g),
      openedAt: at,
    })),
  );
  await insertAll(
    tx,
    approval,
    asks.map(({ key: _, run: __, ...row }) => row),
  );
  return asks.filter((a) => a.status === 'waiting').map((a) => ({ run: a.run, key: a.key, to: a.personId, approvalId: a.id }));
}

/** Who is asked has changed while a gate is open: those asked besides are asked like the others, those no more are told. */
async function changeAsks(tx: Tx, changes: Of<'changeAsks'>[], at: Date): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of changes) {
    const [row] = await tx
      .select({ id: gate.id, name: gate.name })
      .from(gate)
      .where(and(ofStep(e), isNull(gate.closedAt)));
    if (!row) continue;
    if (e.released.length) {
      const told = await tx
        .update(approval)
        .set({ status: 'released', overAt: at })
        .where(and(eq(approval.gateId, row.id), inArray(approval.personId, e.released), inArray(approval.status, ['waiting', 'later'])))
        .returning({ personId: approval.personId });
      drafts.push(...told.map((t) => ({ run: e.run, ...approverReplaced(t.personId, row.name, e.key) })));
    }
    for (const a of e.added) {
      const status = a.waits ? ('later' as const) : ('waiting' as const);
      const again = { insteadOfId: a.insteadOf ?? null, askedAt: at, status, overAt: null };
      const [made] = await tx
        .insert(approval)
        .values({ gateId: row.id, personId: a.person, ...again })
        .onConflictDoUpdate({ target: [approval.gateId, approval.personId], set: again })
        .returning({ id: approval.id });
      if (status === 'waiting') drafts.push({ run: e.run, key: e.key, to: a.person, approvalId: made!.id });
    }
  }
  return drafts;
}

/** The turn of the next approver has come. */
async function askNext(tx: Tx, next: Of<'askNext'>[], at: Date): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of next) {
    const [row] = await tx
      .update(approval)
      .set({ status: 'waiting', askedAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), ofStep(e), eq(approval.personId, e.person), eq(approval.status, 'later')))
      .returning({ id: approval.id });
    if (row) drafts.push({ run: e.run, key: e.key, to: e.person, approvalId: row.id });
  }
  return drafts;
}

async function decide(tx: Tx, decisions: Of<'decision'>[], at: Date): Promise<void> {
  for (const e of decisions) {
    await tx
      .update(approval)
      .set({ status: e.decision === 'approve' ? 'approved' : 'declined', comment: e.comment, decidedAt: at, overAt: at })
      .from(gate)
      .where(and(eq(approval.gateId, gate.id), ofStep(e), eq(approval.personId, e.person)));
  }
}

/** Those who were asked and have not answered are released, and told why. */
async function closeGates(tx: Tx, closed: Of<'closeGate'>[], at: Date): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of closed) {
    const [row] = await tx
      .update(gate)
      .set({ closedAt: at, result: e.result, decidedBy: e.decidedBy ?? null })
      .where(and(ofStep(e), isNull(gate.closedAt)))
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
    drafts.push(
      ...waiting.filter((w) => w.personId !== e.decidedBy).map((w) => ({ run: e.run, ...approvalNotNeeded(e.run.kind, w.personId, row.name, e) })),
    );
  }
  return drafts;
}

/** Reminders to approvers go out as the mail that asked, once more. */
async function remindApprovers(tx: Tx, reminders: Of<'remind'>[]): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of reminders) {
    const rows = e.people.length
      ? await tx
          .select({ id: approval.id, personId: approval.personId })
          .from(approval)
          .innerJoin(gate, eq(gate.id, approval.gateId))
          .where(and(ofStep(e), inArray(approval.personId, e.people), eq(approval.status, 'waiting')))
      : [];
    drafts.push(...rows.map((r) => ({ run: e.run, key: e.key, to: r.personId, approvalId: r.id, reminder: true })));
  }
  return drafts;
}
