import { eq, sql } from 'drizzle-orm';
import { dateWords } from '../../core/calendar/index.ts';
import type { Value } from '../../core/values/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { leavesSoon } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { alone, takeBack } from './by-itself.ts';
import { dayThere, hasLeft, latestDay, toldBefore } from './day.ts';

const most = 200;
/** How much of what somebody holds is told by name. */
const mostNamed = 50;

/**
 * Whoever has left gives everything back: access first, then the rest, what was given last before what was given first. What no system
 * takes back is a task for whoever answers for it, as ever.
 */
export async function endLeavers(): Promise<void> {
  const at = now();
  const { rows } = await db().execute<{ id: string; person: string; last: string | null }>(sql`
    select h.id, h.person_id as person, person.last_day::text as last from person join holding h on h.person_id = person.id
    where (not person.active or person.last_day < ${latestDay(at)}) and ${hasLeft(at)} and h.ended_at is null and h.ending_at is null
    order by person.id, (h.kind = 'group') desc, h.since desc, h.id limit ${most}`);
  for (const { id, person, last } of rows)
    await takeBack(
      id,
      last === null ? 'They are not in the directory any more.' : `Their last day was ${dateWords(last)}.`,
      (row) => row.personId === person,
    );
}

/** Whose manager somebody who leaves is: they are told some days before, once, what goes back. */
export async function tellLeavers(): Promise<void> {
  const at = now();
  const { rows } = await db().execute<{ id: string }>(sql`
    select person.id from person where person.last_day between ${dayThere(at)} and ${dayThere(at)} + ${toldBefore}::int
      and person.leave_told_for is distinct from person.last_day and not ${hasLeft(at)}
      and exists (select from person m where m.id = person.manager_id and m.active)
      and exists (select from holding h where h.person_id = person.id and h.ended_at is null) order by person.last_day, person.id limit ${most}`);
  for (const { id } of rows) await alone(id, () => tellOf(id));
}

const tellOf = (id: string): Promise<void> =>
  db().transaction(async (tx) => {
    const [who] = await tx.select().from(person).where(eq(person.id, id)).for('update');
    if (!who?.lastDay || !who.managerId || who.leaveToldFor === who.lastDay) return;
    // What a confidential request gave is counted, and not named.
    const { rows: held } = await tx.execute<{ run: string; what: Value; quiet: boolean }>(sql`
      select h.run_id as run, h.what, (v.definition -> 'confidential') is not null as quiet
      from holding h join run u on u.id = h.run_id join revision v on v.id = u.revision_id
      where h.person_id = ${id} and h.ended_at is null order by quiet, h.since desc, h.id limit ${mostNamed + 1}`);
    const [first] = held;
    if (!first) return;
    const named = held.slice(0, mostNamed).filter((h) => !h.quiet);
    const of = { who: id, to: who.managerId, lastDay: who.lastDay, things: named.map((h) => h.what), more: named.length < held.length };
    await writeAbout(tx, first.run, leavesSoon(of));
    await tx.update(person).set({ leaveToldFor: who.lastDay }).where(eq(person.id, id));
  });
