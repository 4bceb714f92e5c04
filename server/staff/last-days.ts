import { sql } from 'drizzle-orm';
import { record } from '../changes/record.ts';
import type { Tx } from '../db/database.ts';

/**
 * What the feed says of somebody's last day goes to them as they are known here, once: whoever sets another by hand afterwards has the
 * word until the feed says something new. Somebody who is not known yet has it when they are.
 */
export async function passLastDaysOn(tx: Tx): Promise<void> {
  const { rows } = await tx.execute<{ id: string; lastDay: string | null }>(sql`
    with new as (select id, numbers, last_day from staff_person where last_day is distinct from passed_on for update),
    told as (
      update person p set last_day = new.last_day, leave_told_for = null from new where p.active and p.staff_number = any(new.numbers)
      returning p.id, new.id as whose, p.last_day
    ), passed as (update staff_person s set passed_on = told.last_day from told where s.id = told.whose)
    select id, last_day::text as "lastDay" from told`);
  for (const { id, lastDay } of rows) await record(tx, { actor: null, action: 'set-facts', object: 'person', objectId: id, detail: { lastDay } });
}
