import { sql } from 'drizzle-orm';
import { rooms, stepKinds } from '../../core/plans/index.ts';
import { db, type Reader } from '../db/database.ts';

/** Of open requests: the step under way, who has it, and since when. */
export interface Standing {
  /** The step by the name that designers gave it, and its key in the plan. */
  step: string;
  stepId: string;
  who: string[];
  since: Date;
  stuck: boolean;
  /** What the system that has it says about how it goes; empty where it says nothing. */
  progress: string;
}

export async function whereItStands(caseIds: string[], tx: Reader = db()): Promise<Map<string, Standing>> {
  if (caseIds.length === 0) return new Map();
  // One statement for all of a page: who has each open step is found by its key.
  const { rows } = await tx.execute<{
    id: string;
    step: string;
    stepId: string;
    since: string;
    stuck: boolean;
    who: string[] | null;
    progress: string | null;
  }>(sql`
    select r.case_id as id, s.name as step, s.step as "stepId", s.began_at as since, s.stuck_cause is not null as stuck, (
      select array_agg(n order by n) from (
        select p.name from gate g join approval a on a.gate_id = g.id and a.status = 'waiting' join person p on p.id = a.person_id
          where g.run_id = s.run_id and g.key = s.key and g.closed_at is null
        union all select coalesce(p.name, m.name) from task t left join person p on p.id = coalesce(t.taken_by, t.person_id)
          left join team m on m.id = t.team_id where t.run_id = s.run_id and t.key = s.key and t.closed_at is null
        union all select p.name from question q join person p on p.id = q.to_id
          where q.run_id = s.run_id and q.key = s.key and q.closed_at is null
        union all select coalesce(w.name, 'the ' || split_part(c.action, '.', 1)) from call c left join web_system w on c.action like 'web.' || w.id || '.%'
          where c.run_id = s.run_id and c.key = s.key and c.status in ('waiting', 'accepted')
      ) as names(n)) as who,
      (select max(c.progress) from call c where c.run_id = s.run_id and c.key = s.key and c.status = 'accepted') as progress
    from run r join run_step s on s.run_id = r.id where r.case_id = any(${sql.param(caseIds)}::uuid[]) and s.ended_at is null
      and (s.stuck_cause is not null or s.kind <> all(${sql.param(holders)}::text[])
        or exists (select from timer t where t.run_id = s.run_id and t.key = s.key and t.name = 'again'))
    order by s."order"`);
  return new Map(
    rows.map((r) => [
      r.id,
      { step: r.step, stepId: r.stepId, since: new Date(r.since), stuck: r.stuck, who: r.who ?? [], progress: r.progress ?? '' },
    ]),
  );
}

/** Steps that hold others: where a request stands is told by those, but between two rounds, when there are none. */
const holders: string[] = stepKinds.filter((k) => rooms[k].holds);
