import { and, eq, gt, lt, ne, sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { person, ticketReader } from '../db/schema/index.ts';
import { readTicket } from './happen.ts';
import { actingOn, readsTickets } from './whose.ts';

/** Seconds for which a sign of life counts; a page gives one more often. */
const counts = 60;
const since = sql`now() - make_interval(secs => ${counts})`;

/** Somebody of the desk has a ticket open, and writes or not; or has left it. Nothing to those who may not read it. */
export async function readsTicket(viewer: Viewer, input: { number: number; now: 'reads' | 'writes' | 'gone' }): Promise<void> {
  const t = await readTicket(db(), input.number);
  const as = t && (await actingOn(db(), viewer, t));
  if (!t || (!as?.team && !as?.holder && !readsTickets(viewer))) return;
  const mine = and(eq(ticketReader.caseId, t.caseId), eq(ticketReader.personId, viewer.id));
  if (input.now === 'gone') return void (await db().delete(ticketReader).where(mine));
  await db()
    .insert(ticketReader)
    .values({ caseId: t.caseId, personId: viewer.id, writes: input.now === 'writes', at: sql`now()` })
    .onConflictDoUpdate({ target: [ticketReader.caseId, ticketReader.personId], set: { writes: input.now === 'writes', at: sql`now()` } });
}

/** Who of the desk has a ticket open just now, but one. */
export const othersReading = (caseId: string, but: string) =>
  db()
    .select({ name: person.name, writes: ticketReader.writes })
    .from(ticketReader)
    .innerJoin(person, eq(person.id, ticketReader.personId))
    .where(and(eq(ticketReader.caseId, caseId), ne(ticketReader.personId, but), gt(ticketReader.at, since)))
    .orderBy(person.name)
    .limit(20);

/** Takes away signs of life that count for nothing any more. */
export const sweepReaders = () => db().delete(ticketReader).where(lt(ticketReader.at, since));
