import { and, eq, inArray, sql } from 'drizzle-orm';
import { compareCount, markKey, type Counted } from '../../core/equipment/index.ts';
import { Ordered, PieceChange, StockEntry } from '../../core/posts/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { equipmentKind, issue, piece, pieceEvent, stockOrder } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { lockKind, movePiece, settleKind, type Kind, type Piece } from './stock.ts';
import { mayKeepAt, notKeptBy } from './whose.ts';

const wrongAt = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);

/** A kind at a place that the viewer keeps, locked; or what is wrong with either. */
async function kindAt(tx: Tx, viewer: Viewer, of: { kind: string; place: string }): Promise<Result<{ kind: Kind }>> {
  if (!(await mayKeepAt(tx, viewer, of.place))) return notKeptBy();
  const [known] = isId(of.kind) ? await tx.select({ id: equipmentKind.id }).from(equipmentKind).where(eq(equipmentKind.id, of.kind)) : [];
  if (!known) return wrongAt('kind', 'Choose a kind.');
  return { ok: true, kind: await lockKind(tx, known.id) };
}

/** What was read or counted, as its kind wants it told: marks, or how many. */
function told(kind: Kind, { marks, number }: { marks: string[]; number: string }, least: number): Result<{ found: string[] | number }> {
  if (kind.marked) return marks.length >= least ? { ok: true, found: marks } : wrongAt('marks', 'Scan or type the serial numbers, one a line.');
  const n = /^\d{1,4}$/.test(number) ? Number(number) : Number.NaN;
  return n >= least && n <= 1000 ? { ok: true, found: n } : wrongAt('number', `A whole number from ${least} to 1,000.`);
}

/** New pieces stand at a place from now on. What was ordered of the kind for it has arrived. */
export async function addArrived(
  viewer: Viewer,
  input: { kind: string; place: string; marks: string; number: string },
): Promise<Result<{ n: number }>> {
  const held = holdTo(StockEntry, input);
  if (!held.ok) return held;
  return db().transaction(async (tx): Promise<Result<{ n: number }>> => {
    const at = await kindAt(tx, viewer, held.value);
    if (!at.ok) return at;
    const { kind } = at;
    const { place } = held.value;
    const given = told(kind, held.value, 1);
    if (!given.ok) return given;
    const { found } = given;
    if (typeof found !== 'number') {
      const known = await marksOf(tx, kind.id, found);
      if (known.length > 0)
        return wrongAt(
          'marks',
          `Known already: ${known
            .slice(0, 5)
            .map((p) => p.mark)
            .join(', ')}. Nothing was taken in.`,
        );
    }
    const n = await addPieces(tx, viewer, { kind, place, found, what: 'arrived' });
    await tx
      .update(stockOrder)
      .set({ state: 'arrived', changedAt: now(), changedBy: viewer.id })
      .where(and(eq(stockOrder.kindId, kind.id), eq(stockOrder.locationId, place), eq(stockOrder.state, 'ordered')));
    await record(tx, { actor: viewer.id, action: 'arrive', object: 'equipment', objectId: kind.id, detail: { place, n } });
    await settleKind(tx, kind);
    return { ok: true, n };
  });
}

const marksOf = (tx: Tx, kindId: string, found: string[]): Promise<Piece[]> =>
  tx
    .select()
    .from(piece)
    .where(and(eq(piece.kindId, kindId), sql`lower(${piece.mark}) = any(${sql.param(found.map(markKey))}::text[])`));

async function addPieces(
  tx: Tx,
  viewer: Viewer,
  { kind, place, found, what }: { kind: Kind; place: string; found: string[] | number; what: 'arrived' | 'found' },
): Promise<number> {
  const marks = typeof found === 'number' ? Array.from({ length: found }, () => null) : found;
  if (marks.length === 0) return 0;
  const at = now();
  const added = await tx
    .insert(piece)
    .values(marks.map((mark) => ({ kindId: kind.id, mark, locationId: place, state: 'free' as const, since: at })))
    .returning({ id: piece.id });
  await tx.insert(pieceEvent).values(added.map(({ id }) => ({ pieceId: id, at, by: viewer.id, what, locationId: place })));
  return added.length;
}

/** A piece is in repair, missing, gone for good, or free again: where it stands the viewer keeps it. What was set aside is set aside anew. */
export async function changePiece(viewer: Viewer, input: { piece: string; state: string; note: string }): Promise<Result> {
  const held = holdTo(PieceChange, input);
  if (!held.ok) return held;
  const { state, note } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const [its] = isId(input.piece)
      ? await tx.select({ kindId: piece.kindId, place: piece.locationId }).from(piece).where(eq(piece.id, input.piece))
      : [];
    if (!its || !(await mayKeepAt(tx, viewer, its.place))) return notFound('This piece');
    const kind = await lockKind(tx, its.kindId);
    const [row] = await tx.select().from(piece).where(eq(piece.id, input.piece));
    if (!row) return notFound('This piece');
    if (row.state === 'out') return refuse('ended', 'It is handed out: take it in first, where what is handed out stands. Nothing was changed.');
    if (row.state === state) return refuse('ended', 'It is so already. Nothing was changed.');
    const again = await putBack(tx, [row]);
    await movePiece(tx, row.id, state, { what: state === 'free' ? 'mended' : state, by: viewer.id, note });
    await record(tx, { actor: viewer.id, action: state, object: 'equipment', objectId: row.id, detail: { note } });
    await settleKind(tx, kind, ...again);
    return { ok: true };
  });
}

/** Those for whom one of these was set aside wait again, where they stood; gives their calls. */
async function putBack(tx: Tx, pieces: Piece[]): Promise<(string | null)[]> {
  const ids = pieces.filter((p) => p.state === 'setAside').map((p) => p.id);
  if (ids.length === 0) return [];
  const again = await tx
    .update(issue)
    .set({ state: 'waiting', pieceId: null, readyAt: null })
    .where(and(inArray(issue.pieceId, ids), eq(issue.state, 'setAside')))
    .returning({ callId: issue.callId });
  return again.map((i) => i.callId);
}

/** More pieces of one kind are not looked at in a count. */
const mostCounted = 20_000;

/**
 * What was counted of a kind at a place is held against the books. With `book` the books follow: what was not found is missing; what was
 * found elsewhere, or was handed out, stands here; what nobody knew of is taken in. Somebody who is said to have what stands here still
 * holds it: that shows among the differences when the stock is read.
 */
export async function countStock(
  viewer: Viewer,
  input: { kind: string; place: string; marks: string; number: string; book: boolean },
): Promise<Result<{ counted: Counted<Piece & { place: string }>; kind: string }>> {
  const held = holdTo(StockEntry, input);
  if (!held.ok) return held;
  return db().transaction(async (tx): Promise<Result<{ counted: Counted<Piece & { place: string }>; kind: string }>> => {
    const at = await kindAt(tx, viewer, held.value);
    if (!at.ok) return at;
    const { kind } = at;
    const { place } = held.value;
    const given = told(kind, held.value, 0);
    if (!given.ok) return given;
    const all = await tx.select().from(piece).where(eq(piece.kindId, kind.id)).limit(mostCounted);
    const counted = compareCount(
      all.map((p) => ({ ...p, place: p.locationId })),
      place,
      given.found,
    );
    if (!input.book) return { ok: true, counted, kind: kind.name };
    const { missing, elsewhere, unknown, more } = counted;
    const calls = await putBack(tx, [...missing, ...elsewhere]);
    for (const p of missing) await movePiece(tx, p.id, 'missing', { what: 'missing', by: viewer.id, note: 'Not found in a count.' });
    for (const p of elsewhere) {
      const open = await tx
        .update(issue)
        .set({ state: 'back', backAt: now(), backBy: viewer.id })
        .where(and(eq(issue.pieceId, p.id), inArray(issue.state, ['out', 'dueBack'])))
        .returning({ backCallId: issue.backCallId });
      await movePiece(tx, p.id, 'free', { what: 'found', by: viewer.id, locationId: place, note: 'Found in a count.' });
      calls.push(...open.map((i) => i.backCallId));
    }
    await addPieces(tx, viewer, { kind, place, found: kind.marked ? unknown : more, what: 'found' });
    await record(tx, {
      actor: viewer.id,
      action: 'count',
      object: 'equipment',
      objectId: kind.id,
      detail: { place, there: counted.there.length, missing: missing.length, elsewhere: elsewhere.length, unknown: unknown.length + more },
    });
    await settleKind(tx, kind, ...calls);
    return { ok: true, counted, kind: kind.name };
  });
}

/** What runs low was ordered, or is not to be. */
export async function orderStock(viewer: Viewer, input: { order: string; drop: boolean; reference: string; expected: string }): Promise<Result> {
  const held = input.drop ? { ok: true as const, value: { reference: '', expected: '' } } : holdTo(Ordered, input);
  if (!held.ok) return held;
  const { reference, expected } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = isId(input.order) ? await tx.select().from(stockOrder).where(eq(stockOrder.id, input.order)).for('update') : [];
    if (!row || !(await mayKeepAt(tx, viewer, row.locationId))) return notFound('This order');
    if (row.state === 'arrived' || row.state === 'dropped')
      return refuse('ended', 'It has arrived already, or is not needed any more. Nothing was changed.');
    if (row.state === 'ordered' && !input.drop) return refuse('ended', 'It was ordered already. Nothing was changed.');
    await tx
      .update(stockOrder)
      .set({ state: input.drop ? 'dropped' : 'ordered', reference, expected: expected || null, changedAt: now(), changedBy: viewer.id })
      .where(eq(stockOrder.id, row.id));
    await record(tx, {
      actor: viewer.id,
      action: input.drop ? 'drop-order' : 'order',
      object: 'equipment',
      objectId: row.kindId,
      detail: { place: row.locationId, wanted: row.wanted, reference },
    });
    return { ok: true };
  });
}
