import { eq, sql } from 'drizzle-orm';
import type { TicketKind } from '../../core/tickets/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { person, ticketKind } from '../db/schema/index.ts';

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
