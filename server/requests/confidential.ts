import { sql, type SQL } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';

/** Whether a viewer asked for a request, was asked about it, or has work in it. */
export const hasPartIn = (viewer: Viewer): SQL<boolean> => sql<boolean>`(
  service_case.requester_id = ${viewer.id} or service_case.for_id = ${viewer.id}
  or exists (select from run u join gate g on g.run_id = u.id join approval a on a.gate_id = g.id where u.case_id = service_case.id and a.person_id = ${viewer.id} and a.status <> 'later')
  or exists (select from run u join question q on q.run_id = u.id where u.case_id = service_case.id and q.to_id = ${viewer.id})
  or exists (select from run u join task t on t.run_id = u.id where u.case_id = service_case.id and (t.person_id = ${viewer.id} or t.taken_by = ${viewer.id}
    or t.team_id in (select m.team_id from team_member m where m.person_id = ${viewer.id}))))`;

/**
 * Whether a viewer may read the answers and words of a request (its row is called `service_case`): of an item that is not
 * confidential whoever may read the Ledger; of a confidential one only its requester, those who were asked, the teams and
 * people who have work in it, and the readers its revision names. Others see that it exists.
 */
export const maySeeInside = (viewer: Viewer): SQL<boolean> => sql<boolean>`(
  (select r.definition -> 'confidential' from revision r where r.id = service_case.revision_id) is null
  or exists (select from revision r, jsonb_array_elements(r.definition -> 'confidential' -> 'readers') who
    where r.id = service_case.revision_id and who ->> 'person' = ${viewer.id})
  or ${hasPartIn(viewer)})`;
