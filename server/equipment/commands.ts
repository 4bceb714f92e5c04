import { and, eq, sql } from 'drizzle-orm';
import { markKey } from '../../core/equipment/index.ts';
import { HandPiece, NotReceived, PieceBack } from '../../core/posts/index.ts';
import { givenId } from '../../core/steps/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { issue, piece } from '../db/schema/index.ts';
import { endHolding, lockHolding } from '../holdings/end.ts';
import { isId } from '../ids.ts';
import { handedOver } from '../mail/handed-over.ts';
import { writeAbout } from '../mail/write.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { lockIssue, movePiece, settleKind, type Issue, type Kind, type Piece } from './stock.ts';
import { mayKeepAt, notKeptBy } from './whose.ts';
import { issueName } from './wanted.ts';

const unknown = () => notFound('This');
const wrongAt = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);

interface AtHand {
  kind: Kind;
  row: Issue;
  its: Piece;
}

/** What is set aside at a place that the viewer keeps, its kind locked. */
async function setAsideFor(tx: Tx, viewer: Viewer, id: string): Promise<Result<AtHand>> {
  const locked = isId(id) ? await lockIssue(tx, id) : undefined;
  const [its] = locked?.row.pieceId ? await tx.select().from(piece).where(eq(piece.id, locked.row.pieceId)) : [];
  if (!locked) return unknown();
  if (!its)
    return refuse('ended', locked.row.state === 'waiting' ? 'None is set aside for it yet.' : 'It is not needed any more. Nothing was changed.');
  if (!(await mayKeepAt(tx, viewer, its.locationId))) return unknown();
  if (locked.row.state !== 'setAside') return refuse('ended', 'It was handed over already. Nothing was changed.');
  return { ok: true, ...locked, its };
}

/** It was picked, and stands ready: whoever gets it reads that where they follow their request. */
export async function pickPiece(viewer: Viewer, input: { issue: string }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const at = await setAsideFor(tx, viewer, input.issue);
    if (!at.ok) return at;
    if (at.row.readyAt) return refuse('ended', 'It stands ready already. Nothing was changed.');
    await tx.update(issue).set({ readyAt: now() }).where(eq(issue.id, at.row.id));
    await record(tx, { actor: viewer.id, action: 'pick', object: 'equipment', objectId: at.its.id, detail: { issue: issueName(at.row.number) } });
    await settleKind(tx, at.kind, at.row.callId);
    return { ok: true };
  });
}

/**
 * It is handed over: the piece with the mark that is on it, which may be another free one of the place than was set aside. From now on
 * whoever got it has it; they are asked to say so.
 */
export async function handPiece(viewer: Viewer, input: { issue: string; mark: string }): Promise<Result> {
  const held = holdTo(HandPiece, input);
  if (!held.ok) return held;
  return db().transaction(async (tx): Promise<Result> => {
    const at = await setAsideFor(tx, viewer, input.issue);
    if (!at.ok) return at;
    const { kind, row } = at;
    const taken = kind.marked ? await markedPiece(tx, at, held.value.mark) : { ok: true as const, its: at.its };
    if (!taken.ok) return taken;
    const { its } = taken;
    // Another one than was set aside: that one stands free again.
    if (its.id !== at.its.id) {
      await tx.update(issue).set({ pieceId: null }).where(eq(issue.id, row.id));
      await movePiece(tx, at.its.id, 'free', { what: 'putBack', issueId: row.id, by: viewer.id });
    }
    await movePiece(tx, its.id, 'out', { what: 'handedOut', issueId: row.id, by: viewer.id });
    // Of what nothing tells apart the number of the issue does.
    const what = `${kind.name} ${its.mark ?? issueName(row.number)}`;
    await tx.update(issue).set({ state: 'out', pieceId: its.id, what, outAt: now(), outBy: viewer.id }).where(eq(issue.id, row.id));
    if (row.runId && row.personId !== viewer.id)
      await writeAbout(tx, row.runId, handedOver({ key: `issue:${row.id}`, to: row.personId, what, by: viewer.id }));
    await record(tx, {
      actor: viewer.id,
      action: 'hand-over',
      object: 'equipment',
      objectId: its.id,
      detail: { issue: issueName(row.number), person: row.personId },
    });
    await settleKind(tx, kind, row.callId);
    return { ok: true };
  });
}

/** The piece that has this on it: the one that was set aside, or another free one at the same place. */
async function markedPiece(tx: Tx, { kind, its }: AtHand, mark: string): Promise<Result<{ its: Piece }>> {
  if (mark === '') return wrongAt('mark', 'Scan or type the serial number that is on it.');
  if (its.mark !== null && markKey(its.mark) === markKey(mark)) return { ok: true, its };
  const [other] = await tx
    .select()
    .from(piece)
    .where(and(eq(piece.kindId, kind.id), sql`lower(${piece.mark}) = ${markKey(mark)}`));
  if (!other) return wrongAt('mark', `No ${kind.name} with “${mark}” is known.`);
  if (other.state !== 'free' || other.locationId !== its.locationId)
    return wrongAt(
      'mark',
      `“${other.mark}” is not free here: ${stateWords[other.state]}${other.locationId === its.locationId ? '' : ', at another place'}.`,
    );
  return { ok: true, its: other };
}
const stateWords: Record<Piece['state'], string> = {
  free: 'it is free',
  setAside: 'it is set aside for somebody else',
  out: 'it is handed out',
  repair: 'it is in repair',
  missing: 'it is missing',
  retired: 'it is gone for good',
};

/**
 * It came back, or is said not to come. What nobody had asked back yet is given back by that, with the same that follows. Taken in where
 * the viewer keeps what stands there.
 */
export async function takeIn(viewer: Viewer, input: { issue: string; place: string; how: string; note: string }): Promise<Result> {
  const held = holdTo(PieceBack, input);
  if (!held.ok) return held;
  const { place, how, note } = held.value;
  if (!isId(input.issue)) return unknown();
  return db().transaction(async (tx): Promise<Result> => {
    if (!(await mayKeepAt(tx, viewer, place))) return notKeptBy();
    const [before] = await tx.select({ state: issue.state }).from(issue).where(eq(issue.id, input.issue));
    // The run of what it was given by is locked before the kind.
    const given = before?.state === 'out' ? await lockGiven(tx, input.issue) : undefined;
    const locked = await lockIssue(tx, input.issue);
    if (!locked?.row.pieceId) return unknown();
    const { row, kind } = locked;
    if (row.state === 'out' && given === undefined)
      return refuse('changed-meanwhile', 'It was handed over a moment ago. Try again in a minute; nothing was changed.');
    if (row.state !== 'out' && row.state !== 'dueBack') return refuse('ended', 'It is back already. Nothing was changed.');
    const lost = how === 'lost';
    // That it does not come is for those to say whose stock it was.
    const [its] = lost ? await tx.select({ place: piece.locationId }).from(piece).where(eq(piece.id, row.pieceId!)) : [];
    if (its && !(await mayKeepAt(tx, viewer, its.place))) return notKeptBy();
    await movePiece(tx, row.pieceId!, lost ? 'missing' : how === 'repair' ? 'repair' : 'free', {
      what: lost ? 'missing' : 'cameBack',
      issueId: row.id,
      by: viewer.id,
      note,
      ...(!lost && { locationId: place }),
    });
    await tx
      .update(issue)
      .set({ state: lost ? 'lost' : 'back', backAt: now(), backBy: viewer.id })
      .where(eq(issue.id, row.id));
    if (given) await endHolding(tx, given, viewer.id, lost ? `It did not come back. ${note}`.trim() : 'It was brought back.');
    await record(tx, {
      actor: viewer.id,
      action: lost ? 'lose' : 'take-in',
      object: 'equipment',
      objectId: row.pieceId!,
      detail: { issue: issueName(row.number), how, note },
    });
    await settleKind(tx, kind, row.backCallId);
    return { ok: true };
  });
}

/** What was given by an issue, its run locked; undefined where its run was not told of it yet. */
async function lockGiven(tx: Tx, issueId: string) {
  const [its] = await tx.select({ runId: issue.runId, number: issue.number }).from(issue).where(eq(issue.id, issueId));
  if (!its?.runId) return undefined;
  const { rows } = await tx.execute<{ id: string; key: string }>(
    sql`select h.id, h.key from holding h where h.run_id = ${its.runId} and h.action = 'equipment.lend' and h.ended_at is null and h.ending_at is null order by h.id`,
  );
  for (const { id } of rows) {
    const locked = await lockHolding(tx, id);
    const given = locked?.run.state.given?.find((g) => givenId(g) === locked.row.key);
    if (locked && given?.outputs['issue'] === issueName(its.number)) return locked;
  }
  return undefined;
}

/** Whoever it was handed to says that they have it. */
export async function receive(viewer: Viewer, input: { issue: string }): Promise<Result> {
  return said(viewer, input.issue, { receivedAt: now(), deniedAt: null, deniedWhy: null }, 'receive');
}

/** Whoever it was handed to says that they have it not: whoever keeps the stock reads that. */
export async function notReceived(viewer: Viewer, input: { issue: string; why: string }): Promise<Result> {
  const held = holdTo(NotReceived, input);
  if (!held.ok) return held;
  return said(viewer, input.issue, { deniedAt: now(), deniedWhy: held.value.why }, 'not-received');
}

const said = (viewer: Viewer, id: string, set: Partial<Issue>, action: string): Promise<Result> =>
  db().transaction(async (tx): Promise<Result> => {
    const locked = isId(id) ? await lockIssue(tx, id) : undefined;
    if (!locked || locked.row.personId !== viewer.id) return unknown();
    const { row } = locked;
    if (row.state !== 'out') return refuse('ended', 'It is not handed out to you any more. Nothing was changed.');
    if (row.receivedAt) return refuse('ended', 'You said already that you have it. Nothing was changed.');
    await tx.update(issue).set(set).where(eq(issue.id, row.id));
    await record(tx, { actor: viewer.id, action, object: 'equipment', objectId: row.pieceId!, detail: { issue: issueName(row.number) } });
    return { ok: true };
  });
