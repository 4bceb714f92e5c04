import { eq, sql } from 'drizzle-orm';
import type { TicketKind } from '../../core/tickets/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { person, ticketKind } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** A kind as it is now. */
export interface Kind {
  id: string;
  version: number;
  definition: TicketKind;
}

/** All kinds of ticket, by name; there are a few. */
export const allKinds = async (tx: Reader = db()): Promise<Kind[]> =>
  tx
    .select({ id: ticketKind.id, version: ticketKind.version, definition: ticketKind.definition })
    .from(ticketKind)
    .orderBy(sql`lower(${ticketKind.name})`);

/** One kind of ticket. */
export async function kindOf(tx: Reader, id: string): Promise<Kind | undefined> {
  const [row] = await tx
    .select({ id: ticketKind.id, version: ticketKind.version, definition: ticketKind.definition })
    .from(ticketKind)
    .where(eq(ticketKind.id, id));
  return row;
}

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
  return { ...kind, openIn: Object.fromEntries(rows.map((r) => [r.status, r.n])), open: rows.reduce((sum, r) => sum + r.n, 0) };
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
