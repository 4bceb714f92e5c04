import { eq, inArray, sql } from 'drizzle-orm';
import type { TicketKind } from '../../core/tickets/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { person, ticketKind } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { gatesCatalogue } from './gates.ts';

/** A kind as it is now. */
export interface Kind {
  id: string;
  version: number;
  definition: TicketKind;
}

/** Kinds that were read, by id and version: each is read and parsed once in a process; a few at most. */
const ready = new Map<string, TicketKind>();
const mostReady = 500;

async function read(tx: Reader, rows: { id: string; version: number }[]): Promise<Kind[]> {
  const missing = rows.filter((r) => !ready.has(`${r.id} ${r.version}`)).map((r) => r.id);
  if (missing.length > 0) {
    if (ready.size >= mostReady) ready.clear();
    const found = await tx
      .select({ id: ticketKind.id, version: ticketKind.version, definition: ticketKind.definition })
      .from(ticketKind)
      .where(inArray(ticketKind.id, missing));
    for (const k of found) ready.set(`${k.id} ${k.version}`, k.definition);
  }
  // One that was changed between the two readings is asked for anew.
  const kinds = rows.map((r) => ({ ...r, definition: ready.get(`${r.id} ${r.version}`) }));
  if (kinds.every((k): k is Kind => k.definition !== undefined)) return kinds;
  return read(
    tx,
    await versions(
      tx,
      rows.map((r) => r.id),
    ),
  );
}
const versions = (tx: Reader, ids?: string[]) =>
  tx
    .select({ id: ticketKind.id, version: ticketKind.version })
    .from(ticketKind)
    .where(ids && inArray(ticketKind.id, ids))
    .orderBy(sql`lower(${ticketKind.name})`);

/** All kinds of ticket, by name; there are a few. */
export const allKinds = async (tx: Reader = db()): Promise<Kind[]> => read(tx, await versions(tx));

/** One kind of ticket. */
export const kindOf = async (tx: Reader, id: string): Promise<Kind | undefined> => (await kindsOf(tx, [id])).get(id);

/** Several kinds, by id. */
export const kindsOf = async (tx: Reader, ids: string[]): Promise<Map<string, Kind>> => {
  const wanted = [...new Set(ids)];
  return new Map(wanted.length === 0 ? [] : (await read(tx, await versions(tx, wanted))).map((k) => [k.id, k]));
};

/** Kinds whose versions were read with something else, by id. */
export const kindsAt = async (tx: Reader, rows: { id: string; version: number }[]): Promise<Map<string, Kind>> => {
  const once = [...new Map(rows.map((r) => [r.id, r])).values()];
  return new Map(once.length === 0 ? [] : (await read(tx, once)).map((k) => [k.id, k]));
};

/** The kinds that people report at the Counter. */
export const offeredKinds = async (): Promise<Kind[]> => (await allKinds()).filter((k) => k.definition.offered);

/** A kind as its designer edits it, with how many of its tickets are open, and in which status. */
export async function kindFor(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  const kind = await kindOf(db(), id);
  if (!kind) return undefined;
  const { rows } = await db().execute<{ status: string; n: number }>(
    sql`select status, count(*)::int as n from ticket where kind_id = ${id} and ended_at is null group by status`,
  );
  return {
    ...kind,
    catalogue: await gatesCatalogue(db(), kind.definition),
    openIn: Object.fromEntries(rows.map((r) => [r.status, r.n])),
    open: rows.reduce((sum, r) => sum + r.n, 0),
  };
}

/** The kinds as designers list them, with how many tickets of each are open. */
export async function kindsListed(viewer: Viewer) {
  if (!has(viewer, 'designer')) return undefined;
  return db()
    .select({
      id: ticketKind.id,
      name: ticketKind.name,
      version: ticketKind.version,
      definition: ticketKind.definition,
      changedAt: ticketKind.changedAt,
      changedBy: person.name,
      open: sql<number>`(select count(*)::int from ticket t where t.kind_id = ${ticketKind.id} and t.ended_at is null)`,
    })
    .from(ticketKind)
    .leftJoin(person, eq(person.id, ticketKind.changedBy))
    .orderBy(sql`lower(${ticketKind.name})`);
}
