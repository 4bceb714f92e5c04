import { sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { holds } from './meetings.ts';

/** So many pairs are shown, so many exceptions of each, and so many who have both. */
const most = { pairs: 200, exceptions: 100, both: 50 };

/** Who says what is kept apart. */
export const mayKeepApart = (viewer: Viewer): boolean => has(viewer, 'designer', 'administrator');

/** Two groups that are kept apart. */
export interface Apart {
  id: string;
  /** What the two are called, in order. */
  groups: string[];
  why: string;
  ended: boolean;
  excepters: { id: string; name: string }[];
  /** The viewer may make an exception. */
  mayExcept: boolean;
  exceptions: { id: string; name: string; until: string | null; why: string; by: string; at: string; holds: boolean }[];
  /** Who has both without an exception. */
  both: string[];
}

/** What is kept apart: to designers, administrators and auditors all of it, to others what they may make an exception of. */
export async function apartFor(viewer: Viewer): Promise<Apart[]> {
  const all = has(viewer, 'designer', 'administrator', 'auditor');
  const { rows } = await db().execute<Omit<Apart, 'groups'> & { first: string; second: string; [k: string]: unknown }>(sql`
    select k.id, a.name as first, b.name as second, k.why,
      k.ended_at is not null as ended, (k.ended_at is null and ${viewer.id}::uuid = any(k.excepters)) as "mayExcept",
      coalesce((select json_agg(json_build_object('id', e.id, 'name', e.name) order by e.name) from person e where e.id = any(k.excepters)), '[]') as excepters,
      coalesce((select json_agg(x) from (select x.id, p.name, x.until::text as until, x.why, d.name as "by", x.at, ${holds('x')} as holds
        from apart_exception x join person p on p.id = x.person_id join person d on d.id = x.by_id
        where x.pair_id = k.id and x.ended_at is null order by x.at desc, x.id limit ${most.exceptions}) x), '[]') as exceptions,
      coalesce((select json_agg(p.name) from (select p.name from group_person m join group_person n on n.person_id = m.person_id and n.group_id = k.other_id and n."as" = 'member'
        join person p on p.id = m.person_id
        where m.group_id = k.one_id and m."as" = 'member' and k.ended_at is null and p.active
          and not exists (select from apart_exception x where x.pair_id = k.id and x.person_id = p.id and ${holds('x')})
        order by p.name, p.id limit ${most.both}) p), '[]') as both
    from kept_apart k join access_group a on a.id = k.one_id join access_group b on b.id = k.other_id
    where ${all} or (k.ended_at is null and ${viewer.id}::uuid = any(k.excepters))
    order by k.ended_at is not null, least(a.name, b.name), greatest(a.name, b.name), k.id limit ${most.pairs}`);
  return rows.map(({ first, second, ...pair }) => ({ ...pair, groups: [first, second].toSorted() }));
}

/** Whether the viewer has anything to do with what is kept apart. */
export async function seesApart(viewer: Viewer): Promise<boolean> {
  if (has(viewer, 'designer', 'administrator', 'auditor')) return true;
  const { rows } = await db().execute<{ sees: boolean }>(
    sql`select exists (select from kept_apart k where k.ended_at is null and ${viewer.id}::uuid = any(k.excepters)) as sees`,
  );
  return rows[0]!.sees;
}
