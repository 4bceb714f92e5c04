import { sql, type SQL } from 'drizzle-orm';
import { audienceWords, namedInAudience, type Audience } from '../../core/items/index.ts';
import type { Reader } from '../db/database.ts';
import { peopleIn } from '../items/audience.ts';
import { namesFor } from '../people/names.ts';

/** Who is in by the condition of a group, each with what is held of it (`holding_id`, open or over) and whether the request is still under way. */
export const admitted = (group: string): SQL => sql`
  select a.id, a.person_id, a.state, a.at, a.why, c.number, c.ended_at is null and c.id is not null as under_way,
    h.id as holding_id, h.ended_at, h.ending_at, h.ending_by, h.ending_why
  from group_admission a left join service_case c on c.id = a.case_id left join run r on r.case_id = c.id
    left join holding h on h.run_id = r.id and h.action = 'directory.addMember'
  where a.group_id = ${group}::uuid and a.state <> 'over'`;

/**
 * What a condition comes to, as the parts of a query: `belongs`, of whom it holds; `live`, who was let in by it; `coming`, who is to be let
 * in: not in it yet, and not out again by somebody's hand; `going`, who is to go: in by it, and it holds of them no more. Whoever the
 * directory lacks at present is left to what becomes of them there.
 */
export const comesTo = (group: string, members: SQL): SQL => sql`
  belongs as materialized (${peopleIn(members)}),
  live as materialized (${admitted(group)}),
  coming as materialized (
    select b.id from belongs b
    where not exists (select from group_person m where m.group_id = ${group}::uuid and m.person_id = b.id and m."as" = 'member')
      and not exists (select from live l where l.person_id = b.id and l.state <> 'refused')),
  going as materialized (
    select l.holding_id, l.person_id from live l join person p on p.id = l.person_id and p.active
    where l.holding_id is not null and l.ended_at is null and l.ending_at is null and not exists (select from belongs b where b.id = l.person_id))`;

/** A condition in words. */
export async function conditionWordsOf(tx: Reader, members: Audience): Promise<string> {
  return audienceWords(members, (await namesFor(tx, namedInAudience(members))).of);
}
