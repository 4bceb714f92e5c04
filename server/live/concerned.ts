import { sql } from 'drizzle-orm';
import { db } from '../db/database.ts';

/** What somebody waits at: a case by its number, or what they are to see at the Desk and of their own requests. */
export type Wanted = { case: number } | { lists: true };

export interface Watcher {
  personId: string;
  wanted: Wanted;
  /** May clear stuck steps, and so sees those of everybody. */
  mends: boolean;
  tell: () => void;
}

/** Which of those who watch lists are concerned by cases that moved: who asked, who is or was asked, whose or whose team's work it is. */
async function peopleConcerned(caseIds: string[], people: string[]): Promise<Set<string>> {
  const { rows } = await db().execute<{ id: string }>(sql`
    with moved as (select id from run where case_id = any(${sql.param(caseIds)}::uuid[])), watching(id) as (select unnest(${sql.param(people)}::uuid[]))
    select requester_id as id from service_case where id = any(${sql.param(caseIds)}::uuid[]) and requester_id in (select id from watching)
    union select for_id from service_case where id = any(${sql.param(caseIds)}::uuid[]) and for_id in (select id from watching)
    union select a.person_id from moved join gate g on g.run_id = moved.id join approval a on a.gate_id = g.id where a.person_id in (select id from watching)
    union select w.id from moved join task t on t.run_id = moved.id join watching w on w.id = t.person_id or w.id = t.taken_by
    union select t.holder_id from ticket t where t.case_id = any(${sql.param(caseIds)}::uuid[]) and t.holder_id in (select id from watching)
    union select m.person_id from ticket t join team_member m on m.team_id = t.team_id where t.case_id = any(${sql.param(caseIds)}::uuid[]) and m.person_id in (select id from watching)
    union select m.person_id from moved join task t on t.run_id = moved.id join team_member m on m.team_id = t.team_id where m.person_id in (select id from watching)`);
  return new Set(rows.map((r) => r.id));
}

/** Cases with the tickets that went into them: what is said of the one is said to those who asked for the others. */
async function withThoseWithin(caseIds: string[]): Promise<string[]> {
  const { rows } = await db().execute<{ id: string }>(sql`select case_id as id from ticket where joined_id = any(${sql.param(caseIds)}::uuid[])`);
  return [...caseIds, ...rows.map((r) => r.id)];
}

/** Tells those who wait at something that one of these cases concerns. */
export async function tellConcerned(moved: string[], watchers: Iterable<Watcher>): Promise<void> {
  const all = [...watchers];
  if (all.length === 0 || moved.length === 0) return;
  const caseIds = await withThoseWithin(moved);
  const cases = all.some((w) => 'case' in w.wanted);
  const lists = [...new Set(all.flatMap((w) => ('lists' in w.wanted && !w.mends ? [w.personId] : [])))];
  const [numbers, people] = await Promise.all([
    cases
      ? db()
          .execute<{ number: string }>(sql`select number from service_case where id = any(${sql.param(caseIds)}::uuid[])`)
          .then(({ rows }) => new Set(rows.map((r) => Number(r.number))))
      : new Set<number>(),
    lists.length > 0 ? peopleConcerned(caseIds, lists) : new Set<string>(),
  ]);
  for (const w of all) if ('case' in w.wanted ? numbers.has(w.wanted.case) : w.mends || people.has(w.personId)) w.tell();
}
