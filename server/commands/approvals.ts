import { and, eq, gt, isNull, sql } from 'drizzle-orm';
import { hashToken } from '../auth/token.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { approval, gate, person, request } from '../db/schema/index.ts';
import { notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { deliver } from '../runtime/deliver.ts';
import { record } from './record.ts';

export interface Decision {
  decision: 'approve' | 'decline';
  comment: string;
}
const commentLimit = 2000;

/** Decides on an approval one was asked for. Of two decisions at once the first counts; the second is told of it. */
export async function decide(viewer: Viewer, input: { approvalId: string } & Decision): Promise<Result> {
  const wrong = badComment(input);
  if (wrong) return wrong;
  return db().transaction(async (tx) => {
    const [row] = await tx
      .select({ id: approval.id, requestId: gate.requestId, key: gate.key, gateId: gate.id })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .where(and(eq(approval.id, input.approvalId), eq(approval.personId, viewer.id)));
    return row ? give(tx, row, viewer.id, input, 'portal') : notFound('This approval');
  });
}

/** The same through the one-time link of a mail, without signing in. The link is used up by a decision, not by a look. */
export async function decideByLink(input: { token: string } & Decision): Promise<Result> {
  const wrong = badComment(input);
  if (wrong) return wrong;
  return db().transaction(async (tx) => {
    const [row] = await tx
      .update(approval)
      .set({ tokenUsedAt: new Date() })
      .from(gate)
      .where(
        and(
          eq(gate.id, approval.gateId),
          eq(approval.tokenHash, hashToken(input.token)),
          isNull(approval.tokenUsedAt),
          gt(approval.tokenExpiresAt, sql`now()`),
        ),
      )
      .returning({ id: approval.id, requestId: gate.requestId, key: gate.key, gateId: gate.id, personId: approval.personId });
    if (!row) return refuse('ended', 'This link has been used already or is too old. Sign in to see your approvals.');
    return give(tx, row, row.personId, input, 'mail link');
  });
}

async function give(
  tx: Tx,
  row: { id: string; requestId: string; key: string; gateId: string },
  personId: string,
  input: Decision,
  via: string,
): Promise<Result> {
  const { ignored } = await deliver(tx, row.requestId, {
    type: 'decided',
    key: row.key,
    person: personId,
    decision: input.decision,
    comment: input.comment.trim(),
  });
  await record(tx, {
    actor: personId,
    action: ignored ? 'decide-ignored' : input.decision,
    object: 'approval',
    objectId: row.id,
    detail: { via, ...(ignored && { ignored, wanted: input.decision }) },
  });
  if (!ignored) return { ok: true };
  return refuse('already-decided', await whatHappened(tx, row.gateId, row.requestId));
}

/** Why a decision came too late, with who and when. */
async function whatHappened(tx: Tx, gateId: string, requestId: string): Promise<string> {
  const [row] = await tx
    .select({ result: gate.result, closedAt: gate.closedAt, by: person.name, outcome: request.outcome })
    .from(gate)
    .innerJoin(request, eq(request.id, requestId))
    .leftJoin(person, eq(person.id, gate.decidedBy))
    .where(eq(gate.id, gateId));
  if (!row?.result) return 'You have answered already. Your first answer counts.';
  const when = row.closedAt ? ` at ${row.closedAt.toISOString().slice(0, 16).replace('T', ' ')} UTC` : '';
  if (row.result === 'withdrawn') return `This is not needed any more: the request was ended${when}. Nothing was changed.`;
  return `Already ${row.result}${row.by ? ` by ${row.by}` : ''}${when}. Your answer was noted and changes nothing.`;
}

function badComment(input: Decision): Refusal | undefined {
  if (input.comment.length > commentLimit)
    return refuse('invalid', `The comment has more than ${commentLimit} characters.`, [{ field: 'comment', sentence: 'Shorten the comment.' }]);
  if (input.decision === 'decline' && !input.comment.trim()) {
    return refuse('invalid', 'Say why you decline; the requester is told.', [
      { field: 'comment', sentence: 'Say why you decline; the requester is told.' },
    ]);
  }
  return undefined;
}
