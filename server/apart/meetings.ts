import { listWords } from '../../core/values/index.ts';
import { sql, type SQL } from 'drizzle-orm';
import { now } from '../clock.ts';
import type { Reader } from '../db/database.ts';

/** Somebody who is to be put into a group. */
export interface Joining {
  person: string;
  group: string;
  /** The groups that the same request puts them into as well. */
  also: readonly string[];
}

/** Two groups that would meet in somebody, though they are kept apart. */
export interface Meeting {
  /** Of which of those asked about, from 0. */
  nth: number;
  person: string;
  name: string;
  group: string;
  other: string;
  why: string;
  /** The names of those who may make an exception. */
  excepters: string[];
}

/** What of this would meet though it is kept apart, and nobody has made an exception. A call under way that was found clear counts as done, but for `own`. */
export async function meetingsOf(tx: Reader, all: readonly Joining[], own?: string): Promise<Meeting[]> {
  if (all.length === 0) return [];
  const wanted = all.map((j, nth) => ({ ...j, nth }));
  const { rows } = await tx.execute<Meeting & { [k: string]: unknown }>(sql`
    select w.nth, w.person, p.name, g.name as "group", og.name as other, k.why,
      coalesce((select json_agg(e.name order by e.name) from person e where e.id = any(k.excepters) and e.active), '[]') as excepters
    from jsonb_to_recordset(${JSON.stringify(wanted)}::jsonb) as w(nth int, person uuid, "group" uuid, also uuid[])
      join kept_apart k on k.ended_at is null and w."group" in (k.one_id, k.other_id)
      cross join lateral (select case when k.one_id = w."group" then k.other_id else k.one_id end as id) o
      join access_group g on g.id = w."group" join access_group og on og.id = o.id join person p on p.id = w.person
    where (o.id = any(w.also)
        or exists (select from group_person m where m.group_id = o.id and m.person_id = w.person and m."as" = 'member')
        or exists (select from holding h where h.person_id = w.person and h.ended_at is null and h.what ->> 'group' = o.id::text)
        or exists (select from call c where c.closed_at is null and c.cleared_at is not null and c.id is distinct from ${own ?? null}::uuid
          and c.inputs -> 'person' ->> 'person' = w.person::text and c.inputs -> 'group' ->> 'group' = o.id::text))
      and not exists (select from apart_exception x where x.pair_id = k.id and x.person_id = w.person and ${holds('x')})
    order by w.nth, og.name limit 200`);
  return rows;
}

/** Whether an exception holds now. */
export const holds = (of: string): SQL =>
  sql`(${sql.raw(of)}.ended_at is null and (${sql.raw(of)}.until is null or ${sql.raw(of)}.until >= ${now().toISOString().slice(0, 10)}::date))`;

/** That two groups would meet, as a sentence; what else somebody has is told to those alone who may know it. */
export function meetingWords(m: Meeting, mayKnow: boolean): string {
  const which = mayKnow
    ? `${m.name} has ${m.other}, and it is kept apart from ${m.group}`
    : `${m.name} has something that is kept apart from ${m.group}`;
  const who = m.excepters.length > 0 ? `${listWords(m.excepters, 'or')} can make an exception.` : 'Nobody is named who could make an exception.';
  return `${which}: ${m.why.replace(/[.!?]$/, '')}. ${who}`;
}
