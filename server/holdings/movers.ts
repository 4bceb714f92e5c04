import { eq, sql, type SQL } from 'drizzle-orm';
import type { Value } from '../../core/values/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { isFor } from '../items/audience.ts';
import { holdsStill } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { alone } from './by-itself.ts';
import { hasLeft } from './day.ts';

const most = 200;
/** How much of what somebody holds is told by name. */
const mostNamed = 50;
/** So long, in minutes, nothing else has moved before their manager is told: department, job and manager come one after another. */
const settledAfter = 60;

/**
 * Whether somebody (`person`) holds something (`h`, of a request by `revision`) from a job that they had before: it was given before they moved,
 * and they could not ask for that item any more as it is offered now.
 */
export const isOutgrown: SQL<boolean> = sql<boolean>`(h.ended_at is null and coalesce(h.since < person.moved_at, false) and exists (
  select from item its join revision offered on offered.item_id = its.id and offered.number = its.published_revision
  where its.id = revision.item_id and offered.audience is not null and not ${isFor(sql`offered.audience`, sql`person.id`)}))`;

/** The manager of somebody who has another department or job is told once what they hold still from the one before. */
export async function tellMovers(): Promise<void> {
  const at = now();
  const { rows } = await db().execute<{ id: string }>(sql`
    select person.id from person where person.moved_at < ${at.toISOString()}::timestamptz - make_interval(mins => ${settledAfter})
      and person.move_told_for is distinct from person.moved_at and person.active and not ${hasLeft(at)} order by person.moved_at, person.id limit ${most}`);
  for (const { id } of rows) await alone(id, () => tellOf(id));
}

const tellOf = (id: string): Promise<void> =>
  db().transaction(async (tx) => {
    const [who] = await tx.select().from(person).where(eq(person.id, id)).for('update');
    if (!who?.movedAt || who.moveToldFor?.getTime() === who.movedAt.getTime()) return;
    await tx.update(person).set({ moveToldFor: who.movedAt }).where(eq(person.id, id));
    if (!who.managerId) return;
    // What a confidential request gave is counted, and not named.
    const { rows: held } = await tx.execute<{ run: string; what: Value; quiet: boolean }>(sql`
      select h.run_id as run, h.what, revision.definition -> 'confidential' is not null as quiet
      from holding h join person on person.id = h.person_id join run on run.id = h.run_id join revision on revision.id = run.revision_id
      where h.person_id = ${id} and ${isOutgrown} order by quiet, h.since desc, h.id limit ${mostNamed + 1}`);
    const [first] = held;
    if (!first) return;
    const named = held.slice(0, mostNamed).filter((h) => !h.quiet);
    const things = {
      who: id,
      to: who.managerId,
      moved: who.movedAt.toISOString(),
      things: named.map((h) => h.what),
      more: named.length < held.length,
    };
    await writeAbout(tx, first.run, holdsStill(things));
  });
