import { sql } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';

/** Somebody of the desk who reads what is written about a request now, and where. */
export type ReadsNow = {
  id: string;
  /** The page where they deal with it. */
  page: `task:${string}` | `approval:${string}`;
  /** By what they are known to whoever writes: their team, else their own name. */
  as: string;
};

/** Who of the desk reads what is written about a request now: those who have its open tasks; where there are none, the approvers who were asked. */
export async function readersNow(tx: Reader, caseId: string): Promise<ReadsNow[]> {
  const { rows } = await tx.execute<ReadsNow>(sql`
    with work as (
      select coalesce(m.person_id, t.taken_by, t.person_id) as id, 'task:' || t.id as page, g.name as team, t.opened_at as since
      from run u join task t on t.run_id = u.id and t.closed_at is null left join team g on g.id = t.team_id
        left join team_member m on m.team_id = t.team_id and t.taken_by is null
      where u.case_id = ${caseId}
    ), asked as (
      select a.person_id as id, 'approval:' || a.id as page, null as team, a.asked_at as since
      from run u join gate g on g.run_id = u.id and g.closed_at is null join approval a on a.gate_id = g.id and a.status = 'waiting'
      where u.case_id = ${caseId} and not exists (select from work)
    )
    select distinct on (p.id) p.id, w.page, coalesce(w.team, p.name) as "as"
    from (select * from work union all select * from asked) w join person p on p.id = w.id and p.active order by p.id, w.since`);
  return rows;
}
