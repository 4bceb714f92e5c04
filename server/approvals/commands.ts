import { and, eq, sql } from 'drizzle-orm';
import { Decision as DecisionPost } from '../../core/posts/index.ts';
import { goodLink } from '../auth/links.ts';
import { zoneOf, type Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { approval, gate, person, run } from '../db/schema/index.ts';
import { holdTo, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { deliver } from '../runtime/deliver.ts';
import { correctionsOf } from '../requests/corrections.ts';
import { record } from '../changes/record.ts';
import { momentWords } from '../words.ts';

export interface Decision {
  decision: 'approve' | 'decline' | 'sendBack';
  comment: string;
  /** Fields the gate opens, as the approver left them. */
  corrections?: Record<string, unknown> | undefined;
}
const columns = { id: approval.id, runId: gate.runId, key: gate.key, gateId: gate.id, corrects: gate.corrects, sendBack: gate.sendBack };
/** An approval with its gate, of somebody who works here: who has left decides nothing, whichever way they come. */
const asked = (tx: Tx) =>
  tx
    .select({ ...columns, personId: approval.personId })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(person, and(eq(person.id, approval.personId), eq(person.active, true)));

/** Decides on an approval one was asked for. Of two decisions at once the first counts; the second is told of it. */
export async function decide(viewer: Viewer, input: { approvalId: string } & Decision): Promise<Result> {
  const wrong = refusedComment(input);
  if (wrong) return wrong;
  return db().transaction(async (tx) => {
    const [row] = await asked(tx).where(and(eq(approval.id, input.approvalId), eq(approval.personId, viewer.id)));
    return row ? give(tx, row, viewer.id, input, 'portal') : notFound('This approval');
  });
}

/** The same through the one-time link of a mail, without signing in. The link is used up by a decision, not by a look, nor by one that was refused. */
export async function decideByLink(input: { token: string } & Decision, via: 'mail link' | 'mail reply' = 'mail link'): Promise<Result> {
  const wrong = refusedComment(input);
  if (wrong) return wrong;
  return db().transaction(async (tx) => {
    const [row] = await asked(tx).where(goodLink(input.token));
    if (!row)
      return refuse(
        'ended',
        'This link does not work any more: it was used already, is too old, or you are not asked any more. Sign in to see your approvals.',
      );
    const given = await give(tx, row, row.personId, input, via);
    if (given.ok) await tx.update(approval).set({ tokenUsedAt: new Date() }).where(eq(approval.id, row.id));
    return given;
  });
}

/** The same by an answer in chat: for the approval of this request that waits for this person. */
export async function decideInChat(tx: Tx, input: { runId: string; personId: string } & Decision): Promise<Result> {
  const wrong = refusedComment(input);
  if (wrong) return wrong;
  const [row] = await asked(tx)
    .where(and(eq(gate.runId, input.runId), eq(approval.personId, input.personId)))
    .orderBy(sql`${approval.status} = 'waiting' desc`, sql`${approval.askedAt} desc`)
    .limit(1);
  return row ? give(tx, row, input.personId, input, 'chat') : notFound('This approval');
}

async function give(
  tx: Tx,
  row: { id: string; runId: string; key: string; gateId: string; corrects: string[]; sendBack: boolean },
  personId: string,
  input: Decision,
  via: string,
): Promise<Result> {
  const given = { key: row.key, person: personId, comment: input.comment.trim() };
  if (input.decision === 'sendBack' && !row.sendBack)
    return refuse('invalid', 'This request cannot be sent back at this gate; approve or decline it.');
  const corrected = await correctionsOf(tx, personId, row, input.corrections ?? {});
  if (!corrected.ok) return corrected;
  const { ignored } = await deliver(
    tx,
    row.runId,
    input.decision === 'sendBack'
      ? { type: 'sentBack', ...given }
      : {
          type: 'decided',
          ...given,
          decision: input.decision,
          corrections: corrected.answers,
          ...(corrected.lookedUp && { lookedUp: corrected.lookedUp }),
        },
  );
  await record(tx, {
    actor: personId,
    action: ignored ? 'decide-ignored' : input.decision,
    object: 'approval',
    objectId: row.id,
    detail: { via, ...(ignored && { ignored, wanted: input.decision }) },
  });
  if (!ignored) return { ok: true };
  if (ignored === 'late') return refuse('ended', 'The time to answer was over. Your answer was noted and changes nothing.');
  return refuse('already-decided', await whatHappened(tx, row.gateId, personId));
}

/** Why a decision came too late, with who and when. */
async function whatHappened(tx: Tx, gateId: string, readerId: string): Promise<string> {
  const [reader] = await tx.select({ zone: zoneOf }).from(person).where(eq(person.id, readerId));
  const [row] = await tx
    .select({ result: gate.result, closedAt: gate.closedAt, by: person.name, outcome: run.outcome })
    .from(gate)
    .innerJoin(run, eq(run.id, gate.runId))
    .leftJoin(person, eq(person.id, gate.decidedBy))
    .where(eq(gate.id, gateId));
  if (!row?.result) return 'You have answered already. Your first answer counts.';
  const when = row.closedAt ? `, ${momentWords(row.closedAt, reader?.zone ?? 'UTC')}` : '';
  if (row.result === 'withdrawn') return `This is not needed any more: the request was ended${when}. Nothing was changed.`;
  if (row.result === 'returned')
    return `Already sent back to the requester${row.by ? ` by ${row.by}` : ''}${when}. You are asked again when it comes back.`;
  return `Already ${row.result}${row.by ? ` by ${row.by}` : ''}${when}. Your answer was noted and changes nothing.`;
}

function refusedComment(input: Decision): Refusal | undefined {
  const held = holdTo(DecisionPost, input);
  return held.ok ? undefined : held;
}
