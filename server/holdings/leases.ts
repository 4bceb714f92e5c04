import { eq, sql } from 'drizzle-orm';
import { dateWords } from '../../core/calendar/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { holding } from '../db/schema/index.ts';
import { lentUntil } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { alone, takeBack } from './by-itself.ts';
import { dayThere, latestDay, toldBefore } from './day.ts';
import { lockHolding } from './end.ts';

const most = 200;

/** Holdings (`h`) that are not given back or being given back, with whoever has them. */
const open = sql`holding h join person on person.id = h.person_id where h.ended_at is null and h.ending_at is null`;

/**
 * What is lent goes back after its last day, as days are where whoever has it works; they are told some days before. Each by itself: one
 * that fails harms no other.
 */
export async function endLeases(): Promise<void> {
  const at = now();
  const { rows: over } = await db().execute<{ id: string; until: string }>(sql`
    select h.id, h.until::text as until from ${open} and h.until < ${latestDay(at)} and h.until < ${dayThere(at)} order by h.until, h.id limit ${most}`);
  for (const { id, until } of over) await takeBack(id, `It was lent until ${dateWords(until)}.`, (row) => row.until === until);
  const { rows: near } = await db().execute<{ id: string }>(sql`
    select h.id from ${open} and h.told_at is null and h.until <= ${latestDay(at)} + ${toldBefore}::int
      and h.until between ${dayThere(at)} and ${dayThere(at)} + ${toldBefore}::int order by h.until, h.id limit ${most}`);
  for (const { id } of near)
    await alone(id, () =>
      db().transaction(async (tx) => {
        const locked = await lockHolding(tx, id);
        if (!locked || locked.row.endedAt || locked.row.endingAt || locked.row.toldAt || !locked.row.until) return;
        const { row } = locked;
        await tx.update(holding).set({ toldAt: now() }).where(eq(holding.id, id));
        await writeAbout(tx, row.runId, lentUntil({ key: row.key, to: row.personId, what: row.what }, row.until!));
      }),
    );
}
