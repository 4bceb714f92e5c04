import { and, eq, gte, isNull, lt, lte } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { holding } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { lentUntil } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { endHolding, lockHolding } from './end.ts';

/** How many days before its last whoever has something lent is told. */
const toldBefore = 3;
const most = 200;

/** What is lent goes back after its last day; whoever has it is told some days before. Each by itself: one that fails harms no other. */
export async function endLeases(): Promise<void> {
  const day = (ahead: number) => new Date(now().getTime() + ahead * 86_400_000).toISOString().slice(0, 10);
  const today = day(0);
  const open = and(isNull(holding.endedAt), isNull(holding.endingAt));
  const over = await db()
    .select({ id: holding.id })
    .from(holding)
    .where(and(open, lt(holding.until, today)))
    .orderBy(holding.until)
    .limit(most);
  for (const { id } of over)
    await alone(id, () =>
      db().transaction(async (tx) => {
        const locked = await lockHolding(tx, id);
        if (!locked || locked.row.endedAt || locked.row.endingAt || !locked.row.until || locked.row.until >= today) return;
        // What its run does not know of any more nobody tries again each minute.
        if (!(await endHolding(tx, locked, null, `It was lent until ${locked.row.until}.`)))
          await tx.update(holding).set({ endingAt: now(), endingWhy: 'Its request does not know of it any more.' }).where(eq(holding.id, id));
      }),
    );
  const near = await db()
    .select({ id: holding.id })
    .from(holding)
    .where(and(open, isNull(holding.toldAt), gte(holding.until, today), lte(holding.until, day(toldBefore))))
    .limit(most);
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

async function alone(id: string, act: () => Promise<void>): Promise<void> {
  try {
    await act();
  } catch (error) {
    log.error({ holding: id, cause: causeWords(error) }, 'a lease was not looked after');
  }
}
