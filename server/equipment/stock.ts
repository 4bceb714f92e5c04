import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { allot, type PieceState } from '../../core/equipment/index.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { call, equipmentKind, issue, piece, pieceEvent, stockLevel, stockOrder } from '../db/schema/index.ts';
import { pieceToPick } from '../mail/piece-to-pick.ts';
import { writeAbout } from '../mail/write.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { addJobs } from '../runtime/jobs.ts';

export type Issue = typeof issue.$inferSelect;
export type Piece = typeof piece.$inferSelect;
export type Kind = typeof equipmentKind.$inferSelect;
type Event = Omit<typeof pieceEvent.$inferInsert, 'id' | 'pieceId' | 'at'>;

/** So many of those who wait are looked at at a time. */
const mostAllotted = 500;

/**
 * Locks a kind: whoever changes anything of its pieces or of what is wanted of it does this first, so that no piece is given twice and
 * whoever waits longest comes first. What is read of them is read after it. A run is locked before a kind.
 */
export async function lockKind(tx: Tx, id: string): Promise<Kind> {
  const [row] = await tx.select().from(equipmentKind).where(eq(equipmentKind.id, id)).for('update');
  if (!row) throw new Error(`There is no kind of equipment ${id}.`);
  return row;
}

/** What is wanted, as it is once its kind is locked. */
export async function lockIssue(tx: Tx, id: string): Promise<{ kind: Kind; row: Issue } | undefined> {
  const [its] = await tx.select({ kindId: issue.kindId }).from(issue).where(eq(issue.id, id));
  if (!its) return undefined;
  const kind = await lockKind(tx, its.kindId);
  const [row] = await tx.select().from(issue).where(eq(issue.id, id));
  return row && { kind, row };
}

/** A piece is in another state from now on, which is kept of it. */
export async function movePiece(tx: Tx, id: string, state: PieceState, event: Event): Promise<void> {
  const at = now();
  await tx
    .update(piece)
    .set({ state, since: at, ...(event.locationId && { locationId: event.locationId }) })
    .where(eq(piece.id, id));
  await tx.insert(pieceEvent).values({ pieceId: id, at, ...event });
}

/**
 * The calls that want something are looked at now: how that stands has changed. Whoever is asking at this moment sees that it was told, and
 * asks again. It comes last in a transaction, for a call is locked after whatever else is.
 */
async function tell(tx: Tx, calls: (string | null)[]): Promise<void> {
  const ids = [...new Set(calls.filter((c) => c !== null))];
  if (ids.length === 0) return;
  await tx
    .update(call)
    .set({ told: sql`${call.told} + 1` })
    .where(inArray(call.id, ids));
  await addJobs(
    tx,
    'call',
    ids.map((callId) => ({ payload: { callId }, key: `call:${callId}` })),
  );
}

/**
 * After anything has changed of a kind that is locked, and last of all: what is free is set aside for those who wait, what runs low is to
 * be ordered, and the calls of those who wait are looked at, with others for which something has changed.
 */
export async function settleKind(tx: Tx, kind: Kind, ...calls: (string | null)[]): Promise<void> {
  const waited = await setAside(tx, kind.id);
  await orderLow(tx, kind.id);
  await tell(tx, [...calls, ...waited]);
}

/** Gives the calls of those who waited: whoever waits on moves up as well. */
async function setAside(tx: Tx, kindId: string): Promise<(string | null)[]> {
  const counts = await tx
    .select({ place: piece.locationId, n: sql<number>`count(*)::int` })
    .from(piece)
    .where(and(eq(piece.kindId, kindId), eq(piece.state, 'free')))
    .groupBy(piece.locationId)
    .orderBy(sql`(select name from location where id = ${piece.locationId})`);
  if (counts.length === 0) return [];
  const waiting = await tx
    .select({ id: issue.id, place: issue.placeId, callId: issue.callId })
    .from(issue)
    .where(and(eq(issue.kindId, kindId), eq(issue.state, 'waiting')))
    .orderBy(asc(issue.createdAt), asc(issue.id))
    .limit(mostAllotted);
  if (waiting.length === 0) return [];
  const given = allot(waiting, new Map(counts.map((c) => [c.place, c.n])), await calendarsOf(tx).tree());
  for (const [place, its] of byPlace(given)) {
    const free = await tx
      .select({ id: piece.id })
      .from(piece)
      .where(and(eq(piece.kindId, kindId), eq(piece.state, 'free'), eq(piece.locationId, place)))
      .orderBy(asc(piece.since), asc(piece.mark), asc(piece.id))
      .limit(its.length);
    for (const [n, { id }] of its.entries()) {
      await movePiece(tx, free[n]!.id, 'setAside', { what: 'setAside', issueId: id, locationId: place });
      await tx.update(issue).set({ state: 'setAside', pieceId: free[n]!.id }).where(eq(issue.id, id));
    }
  }
  await tellKeepers(
    tx,
    given.map((g) => g.id),
  );
  return waiting.map((w) => w.callId);
}

/** Where the place says so, everybody of the team that keeps it is told what is to be picked. */
async function tellKeepers(tx: Tx, issues: string[]): Promise<void> {
  const { rows } = await tx.execute<{ id: string; run: string; kind: string; mark: string | null; place: string; person: string; to: string }>(sql`
    select i.id, i.run_id as run, k.name as kind, p.mark, l.name as place, i.person_id as person, m.person_id as "to"
    from equipment_issue i join equipment_kind k on k.id = i.kind_id join piece p on p.id = i.piece_id join location l on l.id = p.location_id
    join stock_place s on s.location_id = p.location_id and s.told join team_member m on m.team_id = s.team_id join person on person.id = m.person_id and person.active
    where i.id = any(${sql.param(issues)}::uuid[]) and i.run_id is not null order by i.id, m.person_id`);
  for (const run of new Set(rows.map((r) => r.run)))
    await writeAbout(tx, run, ...rows.flatMap(({ to, ...r }) => (r.run === run ? [pieceToPick(r, to)] : [])));
}

function byPlace(given: { id: string; from: string }[]): Map<string, { id: string }[]> {
  const by = new Map<string, { id: string }[]>();
  for (const { id, from } of given) by.set(from, [...(by.get(from) ?? []), { id }]);
  return by;
}

/** What has fallen below its level is to be ordered; what has come up again without an order is not. */
async function orderLow(tx: Tx, kindId: string): Promise<void> {
  const at = now();
  const levels = await tx
    .select({
      place: stockLevel.locationId,
      least: stockLevel.least,
      upTo: stockLevel.upTo,
      free: sql<number>`(select count(*) from piece p where p.kind_id = stock_level.kind_id and p.location_id = stock_level.location_id and p.state = 'free')::int`,
    })
    .from(stockLevel)
    .where(eq(stockLevel.kindId, kindId));
  const low = levels.filter((l) => l.free < l.least);
  if (low.length > 0)
    await tx
      .insert(stockOrder)
      .values(low.map((l) => ({ kindId, locationId: l.place, wanted: l.upTo - l.free, state: 'toOrder' as const, createdAt: at, changedAt: at })))
      .onConflictDoUpdate({
        target: [stockOrder.kindId, stockOrder.locationId],
        targetWhere: sql`${stockOrder.state} in ('toOrder', 'ordered')`,
        set: { wanted: sql`excluded.wanted`, changedAt: at },
        // What is ordered is ordered.
        setWhere: sql`${stockOrder.state} = 'toOrder' and ${stockOrder.wanted} <> excluded.wanted`,
      });
  const lowAt = low.map((l) => l.place);
  await tx
    .update(stockOrder)
    .set({ state: 'dropped', changedAt: at })
    .where(
      and(
        eq(stockOrder.kindId, kindId),
        eq(stockOrder.state, 'toOrder'),
        lowAt.length > 0 ? sql`not ${inArray(stockOrder.locationId, lowAt)}` : undefined,
      ),
    );
}
