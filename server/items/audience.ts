import { sql, type SQL } from 'drizzle-orm';
import { audienceWords, namedInAudience } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { namesFor } from '../people/names.ts';
import { definitionOf } from './definitions.ts';

/** What of a person audiences ask, in small letters: the places are those that they are in, from the nearest up. */
interface Facts {
  id: SQL;
  department: SQL;
  job: SQL;
  places: SQL;
  groups: SQL;
}

/** The facts of a person, as a row of their own: `id`, `department`, `job`, `places`, `groups`. */
const factsRow = (person: SQL): SQL => sql`
  select p.id::text as id, lower(p.department) as department, lower(p.job_role) as job,
    array(with recursive up(id, parent) as (
      select l.id, l.parent_id from location l where l.id = p.location_id
      union select l.id, l.parent_id from up join location l on l.id = up.parent
    ) select up.id::text from up) as places,
    array(select g.group_id::text from group_person g where g.person_id = p.id) as groups
  from person p where p.id = ${person}`;

/** Whether those with these facts may ask where this audience (jsonb, or null for everybody) is stated: one of its lines is true of them. */
const isTrueOf = (audience: SQL, of: Facts): SQL => sql`(
  ${audience} is null or exists (
    select from jsonb_array_elements(${audience}) line where line <> '{}'::jsonb
      and (line ->> 'department' is null or lower(line ->> 'department') = ${of.department})
      and (line ->> 'job' is null or lower(line ->> 'job') = ${of.job})
      and (line -> 'person' is null or line -> 'person' ->> 'person' = ${of.id})
      and (line -> 'group' is null or line -> 'group' ->> 'group' = any(${of.groups}))
      and (line -> 'location' is null or line -> 'location' ->> 'location' = any(${of.places}))))`;

/** The same of one person, whom a column of the query names; for few rows. */
export const isFor = (audience: SQL, person: SQL): SQL =>
  sql`exists (select from (${factsRow(person)}) me where ${isTrueOf(audience, {
    id: sql`me.id`,
    department: sql`me.department`,
    job: sql`me.job`,
    places: sql`me.places`,
    groups: sql`me.groups`,
  })})`;

/** The same of whoever reads, for many rows: their facts are read once, beforehand. */
export async function isForViewer(tx: Reader, viewer: Viewer): Promise<(audience: SQL) => SQL> {
  const { rows } = await tx.execute<{ id: string; department: string | null; job: string | null; places: string[]; groups: string[] }>(
    factsRow(sql`${viewer.id}::uuid`),
  );
  const [me] = rows;
  if (!me) return (audience) => sql`${audience} is null`;
  const of: Facts = {
    id: sql`${me.id}::text`,
    department: sql`${me.department}::text`,
    job: sql`${me.job}::text`,
    places: sql`${sql.param(me.places)}::text[]`,
    groups: sql`${sql.param(me.groups)}::text[]`,
  };
  return (audience) => isTrueOf(audience, of);
}

/** Why somebody cannot ask for an item that is offered to others; undefined where it is not offered at all. */
export async function offeredToOthers(viewer: Viewer, itemId: string): Promise<string | undefined> {
  const { rows } = await db().execute<{ revision: string; name: string }>(sql`
    select v.id as revision, v.name from item i join revision v on v.item_id = i.id and v.number = i.published_revision
    where i.id = ${itemId} and i.kind = 'item' and i.archived_at is null and not ${isFor(sql`v.audience`, sql`${viewer.id}::uuid`)}`);
  const [row] = rows;
  if (!row) return undefined;
  const { audience = [] } = await definitionOf(db(), row.revision);
  const names = await namesFor(db(), namedInAudience(audience));
  return `“${row.name}” can be asked for by ${audienceWords(audience, names.of)}. Somebody of them can ask for you.`;
}
