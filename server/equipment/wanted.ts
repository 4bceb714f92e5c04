import { and, eq, sql } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db, type Reader, type Tx } from '../db/database.ts';
import { call, equipmentKind, issue, location, person, piece } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { lockIssue, lockKind, movePiece, settleKind, type Issue } from './stock.ts';

/** What is wanted of a kind, in the words of whoever asks a system: no name of a kind, no person, no place. */
export type Wrong = { wrong: string };

/** What whoever keeps the stock calls what is wanted: `E-42`. */
export const issueName = (number: number): string => `E-${number}`;
const numberOf = (name: string): number => (/^E-\d{1,15}$/.test(name) ? Number(name.slice(2)) : 0);

interface Wanted {
  kind: string;
  person: string;
  /** Where it is wanted; undefined: where the person works. */
  place: string | undefined;
  until: string | null;
  /** Of the call: a repeat of it wants nothing more. */
  key: string;
}

/** Wants a piece of a kind for somebody: it is set aside at once where one is free, else it waits. Gives what is wanted, as it stands. */
export async function want({ kind: name, person: who, place, until, key }: Wanted): Promise<Issue | Wrong> {
  return db().transaction(async (tx): Promise<Issue | Wrong> => {
    const [kind] = await tx
      .select({ id: equipmentKind.id })
      .from(equipmentKind)
      .where(sql`lower(${equipmentKind.name}) = lower(${name.trim()})`);
    if (!kind) return { wrong: `There is no kind of equipment called “${name}”.` };
    const [whose] = isId(who) ? await tx.select({ place: person.locationId }).from(person).where(eq(person.id, who)) : [];
    if (!whose) return { wrong: 'The person is not known here.' };
    if (place !== undefined && !(isId(place) && (await tx.$count(location, eq(location.id, place))) > 0))
      return { wrong: 'The place is not known here.' };
    const locked = await lockKind(tx, kind.id);
    const [of] = await tx.select({ id: call.id, runId: call.runId }).from(call).where(eq(call.idempotencyKey, key));
    await tx
      .insert(issue)
      .values({
        key,
        callId: of?.id ?? null,
        runId: of?.runId ?? null,
        kindId: kind.id,
        personId: who,
        placeId: place ?? whose.place,
        until,
        state: 'waiting',
        createdAt: now(),
      })
      .onConflictDoNothing();
    await settleKind(tx, locked);
    const [row] = await tx.select().from(issue).where(eq(issue.key, key));
    return row!;
  });
}

/** It is not needed any more: what is not handed out yet goes back to the stock. Gives it as it stands then. */
export const letGo = (id: string): Promise<Issue | undefined> =>
  changed(id, async (tx, row) => {
    if (row.state !== 'waiting' && row.state !== 'setAside') return undefined;
    if (row.pieceId !== null) await movePiece(tx, row.pieceId, 'free', { what: 'putBack', issueId: row.id });
    await tx.update(issue).set({ state: 'cancelled', pieceId: null }).where(eq(issue.id, row.id));
    if (row.state === 'setAside') return undefined;
    // Those behind it move up.
    const behind = await tx
      .select({ callId: issue.callId })
      .from(issue)
      .where(and(eq(issue.kindId, row.kindId), eq(issue.state, 'waiting')))
      .limit(500);
    return behind.map((b) => b.callId);
  });

/** It is to come back; `key`: that of the call which wants it. Gives it as it stands then; undefined where nobody knows of it. */
export async function wantBack(name: string, key: string): Promise<Issue | undefined> {
  const [its] = await db()
    .select({ id: issue.id })
    .from(issue)
    .where(eq(issue.number, numberOf(name)));
  if (!its) return undefined;
  return changed(its.id, async (tx, row) => {
    if (row.state !== 'out') return undefined;
    const [of] = await tx.select({ id: call.id }).from(call).where(eq(call.idempotencyKey, key));
    await tx
      .update(issue)
      .set({ state: 'dueBack', dueBackAt: now(), backCallId: of?.id ?? null })
      .where(eq(issue.id, row.id));
    return undefined;
  });
}

/** It is lent until another day. Gives it as it stands then; undefined where nobody knows of it. */
export async function lendUntil(name: string, until: string): Promise<Issue | undefined> {
  const [row] = await db()
    .update(issue)
    .set({ until: sql`case when ${issue.state} = 'out' then ${until}::date else ${issue.until} end` })
    .where(eq(issue.number, numberOf(name)))
    .returning();
  return row;
}

/** Changes what is wanted, as it stands once its kind is locked; `change` gives the calls for which that changes something. */
async function changed(id: string, change: (tx: Tx, row: Issue) => Promise<(string | null)[] | undefined>): Promise<Issue | undefined> {
  return db().transaction(async (tx) => {
    const locked = isId(id) ? await lockIssue(tx, id) : undefined;
    if (!locked) return undefined;
    const calls = (await change(tx, locked.row)) ?? [];
    await settleKind(tx, locked.kind, ...calls);
    const [row] = await tx.select().from(issue).where(eq(issue.id, id));
    return row;
  });
}

/** How something that is wanted stands: with its kind, its piece, the place that has it, and how many wait before it. */
export async function standing(tx: Reader, id: string) {
  if (!isId(id)) return undefined;
  const [row] = await tx
    .select({
      issue,
      kind: equipmentKind.name,
      mark: piece.mark,
      place: piece.locationId,
      placeName: location.name,
      before: sql<number>`(select count(*) from equipment_issue o where o.kind_id = ${issue.kindId} and o.state = 'waiting'
        and (o.created_at, o.id) < (${issue.createdAt}, ${issue.id}))::int`,
    })
    .from(issue)
    .innerJoin(equipmentKind, eq(equipmentKind.id, issue.kindId))
    .leftJoin(piece, eq(piece.id, issue.pieceId))
    .leftJoin(location, eq(location.id, piece.locationId))
    .where(eq(issue.id, id));
  return row;
}
