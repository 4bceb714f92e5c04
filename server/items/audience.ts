import { sql, type SQL } from 'drizzle-orm';
import { audienceWords, namedInAudience, namedInOnBehalf, onBehalfWords } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import type { Reader } from '../db/database.ts';
import { hasLeft } from '../holdings/day.ts';
import { namesFor } from '../people/names.ts';
import { definitionOf } from './definitions.ts';

/** What of a person audiences ask, in small letters: the places are those that they are in, from the nearest up. */
interface Facts {
  id: SQL;
  department: SQL;
  job: SQL;
  places: SQL;
  groups: SQL;
  /** Whether they are from outside: no audience has them. */
  outside: SQL;
}

/** The facts of a person, as a row of their own: `id`, `department`, `job`, `places`, `groups`. */
const factsRow = (person: SQL): SQL => sql`
  select p.id::text as id, lower(p.department) as department, lower(p.job_role) as job,
    array(with recursive up(id, parent) as (
      select l.id, l.parent_id from location l where l.id = p.location_id
      union select l.id, l.parent_id from up join location l on l.id = up.parent
    ) select up.id::text from up) as places,
    array(select g.group_id::text from group_person g where g.person_id = p.id) as groups, p.outside
  from person p where p.id = ${person}`;

/** Whether those with these facts may ask where this audience (jsonb, or null for everybody) is stated: one of its lines is true of them. */
const isTrueOf = (audience: SQL, of: Facts): SQL => sql`(
  not ${of.outside} and (${audience} is null or exists (
    select from jsonb_array_elements(${audience}) line where line <> '{}'::jsonb
      and (line ->> 'department' is null or lower(line ->> 'department') = ${of.department})
      and (line ->> 'job' is null or lower(line ->> 'job') = ${of.job})
      and (line -> 'person' is null or line -> 'person' ->> 'person' = ${of.id})
      and (line -> 'group' is null or line -> 'group' ->> 'group' = any(${of.groups}))
      and (line -> 'location' is null or line -> 'location' ->> 'location' = any(${of.places})))))`;

/** The ids of everybody who works here and of whom one of these lines (jsonb) is true; for all at once. */
export const peopleIn = (audience: SQL): SQL => sql`
  select person.id from person left join (
    with recursive up(of, id, parent) as (
      select l.id, l.id, l.parent_id from location l union select up.of, l.id, l.parent_id from up join location l on l.id = up.parent
    ) select up.of, array_agg(up.id::text) as ids from up group by up.of) within on within.of = person.location_id
  where person.active and not ${hasLeft(now())} and ${isTrueOf(audience, {
    id: sql`person.id::text`,
    department: sql`lower(person.department)`,
    job: sql`lower(person.job_role)`,
    places: sql`within.ids`,
    groups: sql`array(select g.group_id::text from group_person g where g.person_id = person.id)`,
    outside: sql`person.outside`,
  })}`;

/** The same of one person, whom a column of the query names; for few rows. */
export const isFor = (audience: SQL, person: SQL): SQL =>
  sql`exists (select from (${factsRow(person)}) me where ${isTrueOf(audience, {
    id: sql`me.id`,
    department: sql`me.department`,
    job: sql`me.job`,
    places: sql`me.places`,
    groups: sql`me.groups`,
    outside: sql`me.outside`,
  })})`;

/** Whether somebody leads somebody, themselves or by others. */
const leads = (manager: SQL, person: SQL): SQL => sql`exists (
  with recursive up(id) as (
    select p.manager_id from person p where p.id = ${person} union select p.manager_id from up join person p on p.id = up.id
  ) select from up where up.id = ${manager})`;

/** Whether a person may ask by a revision for themselves, or, where `whom` is not null, for somebody else; for few rows. */
export const mayAsk = (revision: { audience: SQL; onBehalf: SQL; outsiders: SQL }, by: SQL, whom: SQL): SQL => sql`case
  when ${whom} is null then ${isFor(revision.audience, by)} or (${revision.outsiders} and exists (select from person p where p.id = ${by} and p.outside))
  else ${revision.onBehalf} is not null and ${isFor(revision.audience, whom)} and exists (select from person p where p.id = ${whom} and p.active)
    and (((${revision.onBehalf} ->> 'managers')::boolean and ${leads(by, whom)}) or ${isFor(sql`(${revision.onBehalf} -> 'by')`, by)}) end`;

/** For whom whoever reads may ask, for many rows: their facts are read once, beforehand. */
export async function asksOf(tx: Reader, viewer: Viewer): Promise<{ forSelf: (audience: SQL) => SQL; forOthers: (onBehalf: SQL) => SQL }> {
  const { rows } = await tx.execute<{
    id: string;
    department: string | null;
    job: string | null;
    places: string[];
    groups: string[];
    outside: boolean;
    leads: boolean;
  }>(
    sql`select me.*, exists (select from person r where r.manager_id = ${viewer.id}::uuid and r.active) as leads from (${factsRow(sql`${viewer.id}::uuid`)}) me`,
  );
  const [me] = rows;
  if (!me) return { forSelf: () => sql`false`, forOthers: () => sql`false` };
  const of: Facts = {
    id: sql`${me.id}::text`,
    department: sql`${me.department}::text`,
    job: sql`${me.job}::text`,
    places: sql`${sql.param(me.places)}::text[]`,
    groups: sql`${sql.param(me.groups)}::text[]`,
    outside: sql`${me.outside}::boolean`,
  };
  return {
    forSelf: (audience) => isTrueOf(audience, of),
    forOthers: (onBehalf) =>
      sql`(${onBehalf} is not null and ((${me.leads} and (${onBehalf} ->> 'managers')::boolean) or ${isTrueOf(sql`(${onBehalf} -> 'by')`, of)}))`,
  };
}

/** Why somebody cannot ask for an item that is offered, or not for this other person; undefined where it is not offered at all. */
export async function whyNotAsk(tx: Reader, viewer: Viewer, itemId: string, whom?: string): Promise<string | undefined> {
  const { rows } = await tx.execute<{ revision: string; name: string; theirs: boolean; whom: string | null; active: boolean | null }>(sql`
    select v.id as revision, v.name, ${isFor(sql`v.audience`, sql`${whom ?? viewer.id}::uuid`)} as theirs, w.name as whom, w.active
    from item i join revision v on v.item_id = i.id and v.number = i.published_revision left join person w on w.id = ${whom ?? null}::uuid
    where i.id = ${itemId} and i.kind = 'item' and i.archived_at is null`);
  const [row] = rows;
  if (!row) return undefined;
  const { audience = [], onBehalf } = await definitionOf(tx, row.revision);
  const names = await namesFor(tx, [...namedInAudience(audience), ...namedInOnBehalf(onBehalf)]);
  const those = audienceWords(audience, names.of);
  if (whom === undefined) return row.theirs ? undefined : `“${row.name}” can be asked for by ${those}. Somebody of them can ask for you.`;
  if (!onBehalf) return `“${row.name}” is asked for by each for themselves.`;
  if (!row.active) return 'Choose somebody who works here.';
  if (!row.theirs) return `“${row.name}” can be asked for by ${those}; ${row.whom} is none of them.`;
  return `You may not ask for ${row.whom}: “${row.name}” can be asked for on behalf of others by ${onBehalfWords(onBehalf, names.of)}.`;
}
