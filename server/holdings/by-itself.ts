import { eq } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { holding } from '../db/schema/index.ts';
import { log } from '../log.ts';
import type { Draft } from '../mail/draft.ts';
import { writeAbout } from '../mail/write.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { endHolding, lockHolding } from './end.ts';

type Row = typeof holding.$inferSelect;

/** Has something taken back by itself, if it still is as it was when it was found; `tell` makes what whoever has it is told then. */
export const takeBack = (id: string, why: string, still: (row: Row) => boolean, tell?: (row: Row) => Draft) =>
  alone(id, () =>
    db().transaction(async (tx) => {
      const locked = await lockHolding(tx, id);
      if (!locked || locked.row.endedAt || locked.row.endingAt || !still(locked.row)) return;
      // What its run does not know of any more nobody tries again each minute.
      if (await endHolding(tx, locked, null, why)) {
        if (tell) await writeAbout(tx, locked.run.id, tell(locked.row));
      } else await tx.update(holding).set({ endingAt: now(), endingWhy: 'Its request does not know of it any more.' }).where(eq(holding.id, id));
    }),
  );

/** Does something about one thing; where it fails it harms no other. */
export async function alone(id: string, act: () => Promise<void>): Promise<void> {
  try {
    await act();
  } catch (error) {
    log.error({ about: id, cause: causeWords(error) }, 'what goes back by itself was not looked after');
  }
}
