import { sql, type SQL } from 'drizzle-orm';
import { audienceWords, namedInAudience } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item } from '../db/schema/index.ts';
import { namesFor } from '../people/names.ts';
import { definitionOf } from './definitions.ts';

/**
 * Whether a person may ask for what a definition (jsonb) offers: everybody where it states no audience, else those of whom all that
 * one of its lines states is true. A place counts for all that lies within it; capitals do not.
 */
export const isFor = (definition: SQL, person: SQL): SQL => sql`(
  ${definition} -> 'audience' is null or exists (
    select 1 from person asker, jsonb_array_elements(${definition} -> 'audience') line
    where asker.id = ${person} and line <> '{}'::jsonb
      and (line ->> 'department' is null or lower(asker.department) = lower(line ->> 'department'))
      and (line ->> 'job' is null or lower(asker.job_role) = lower(line ->> 'job'))
      and (line -> 'person' is null or asker.id::text = line -> 'person' ->> 'person')
      and (line -> 'group' is null or exists (
        select 1 from group_person g where g.person_id = asker.id and g.group_id::text = line -> 'group' ->> 'group'))
      and (line -> 'location' is null or exists (
        with recursive up(id, parent) as (
          select l.id, l.parent_id from location l where l.id = asker.location_id
          union select l.id, l.parent_id from up join location l on l.id = up.parent
        ) select 1 from up where up.id::text = line -> 'location' ->> 'location'))
  ))`;

/** Why somebody cannot ask for an item that is offered to others; undefined where it is not offered at all. */
export async function offeredToOthers(viewer: Viewer, itemId: string): Promise<string | undefined> {
  const { rows } = await db().execute<{ revision: string; name: string }>(sql`
    select v.id as revision, v.name from ${item} i join revision v on v.item_id = i.id and v.number = i.published_revision
    where i.id = ${itemId} and i.kind = 'item' and i.archived_at is null and not ${isFor(sql`v.definition`, sql`${viewer.id}::uuid`)}`);
  const [row] = rows;
  if (!row) return undefined;
  const { audience = [] } = await definitionOf(db(), row.revision);
  const names = await namesFor(db(), namedInAudience(audience));
  return `“${row.name}” can be asked for by ${audienceWords(audience, names.of)}. Somebody of them can ask for you.`;
}
