import { eq, sql, type SQL } from 'drizzle-orm';
import { lineFor } from '../../core/policies/index.ts';
import type { Candidate, RunEvent, Wanted } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { policy, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

type FoundApprovers = Omit<Extract<RunEvent, { type: 'found' }>, 'type' | 'key'>;

/**
 * Whom to look up: a query of ids with the order they are in (`nth`), and of several sources the one they are found by (`source`), or
 * nobody; and what is known besides.
 */
interface Sought {
  ids: SQL | undefined;
  several?: boolean;
  more?: Omit<FoundApprovers, 'people'>;
}

/**
 * Answers a look-up as things are now: people who still work here, with delegate and manager. `stated`: somebody a gate
 * names for when nobody is found, of whom it is said who answers for them.
 */
export async function lookUp(tx: Tx, wanted: Wanted, requester: string, stated?: string): Promise<FoundApprovers> {
  const { ids, more, several } = await sought(tx, wanted, requester);
  const all = ids && (several ? ids : sql`select id, nth, null::int from (${ids}) one(id, nth)`);
  const { people, answersForStated } = await candidates(tx, all, stated !== undefined && isId(stated) ? stated : undefined);
  return { people, ...more, ...(stated !== undefined && { stated: answersForStated }) };
}

async function sought(tx: Tx, wanted: Wanted, requester: string): Promise<Sought> {
  switch (wanted.from) {
    case 'people':
      return { ids: listed(wanted.people) };
    case 'managerOf':
      return { ids: isId(wanted.person) ? sql`${above(wanted.person, wanted.levels)} and level = ${wanted.levels}` : undefined };
    case 'chain':
      return { ids: isId(wanted.person) ? above(wanted.person, wanted.levels) : undefined };
    case 'ownersOf':
    case 'membersOf': {
      if (!isId(wanted.group)) return { ids: undefined };
      const as = wanted.from === 'ownersOf' ? 'owner' : 'member';
      return { ids: sql`select person_id, 0 from group_person where group_id = ${wanted.group} and "as" = ${as}` };
    }
    case 'team':
      return teamPeople(tx, wanted.team);
    case 'reportsOf':
      return { ids: isId(wanted.person) ? sql`select id, 0 from person where manager_id = ${wanted.person}` : undefined };
    case 'policy':
      return byPolicy(tx, wanted, requester);
    case 'several':
      return anyOf(tx, wanted.of, requester);
  }
}

/** Everybody of several sources; what keeps one of them from being looked up keeps all. */
async function anyOf(tx: Tx, of: (Wanted | null)[], requester: string): Promise<Sought> {
  const found: SQL[] = [];
  for (const [source, wanted] of of.entries()) {
    const { ids, more } = wanted ? await sought(tx, wanted, requester) : { ids: undefined };
    if (more?.problem !== undefined) return { ids: undefined, more };
    if (ids) found.push(sql`select id, nth, ${source}::int from (${ids}) one(id, nth)`);
  }
  return { ids: found.length > 0 ? sql.join(found, sql` union all `) : undefined, several: true };
}

const listed = (people: string[]): SQL =>
  sql`select id, nth from unnest(${sql.param(people.filter(isId))}::uuid[]) with ordinality as given(id, nth)`;

/** The managers above a person, the nearest first, at most so many; a circle in the directory ends it. */
const above = (person: string, levels: number): SQL => sql`select id, level from (
    with recursive up(id, level, seen) as (
      select manager_id, 1, array[id] from person where id = ${person}
      union all
      select p.manager_id, up.level + 1, up.seen || p.id from up join person p on p.id = up.id
      where up.level < ${levels} and not p.id = any(up.seen)
    ) select id, level from up where id is not null and not id = any(seen)
  ) managers(id, level) where true`;

async function teamPeople(tx: Tx, id: string): Promise<Sought> {
  const [known] = isId(id) ? await tx.select({ id: team.id }).from(team).where(eq(team.id, id)) : [];
  if (!known) return { ids: undefined, more: { problem: 'The team does not exist any more.' } };
  return { ids: sql`select person_id, 0 from team_member where team_id = ${id}` };
}

async function byPolicy(tx: Tx, wanted: Extract<Wanted, { from: 'policy' }>, requester: string): Promise<Sought> {
  const [row] = isId(wanted.policy) ? await tx.select({ definition: policy.definition }).from(policy).where(eq(policy.id, wanted.policy)) : [];
  if (!row) return { ids: undefined, more: { problem: 'The approval policy does not exist any more.' } };
  const line = lineFor(row.definition, wanted.values);
  if (!line) return { ids: undefined };
  const { approvers: a, rule } = line;
  if (a.from === 'nobody') return { ids: undefined, more: { passes: `The policy “${row.definition.name}” asks nobody here.` } };
  if (a.from === 'team') {
    const { ids, more } = await teamPeople(tx, a.team);
    return { ids, more: { ...more, rule } };
  }
  return {
    ids: a.from === 'people' ? listed(a.people.map((p) => p.person)) : isId(requester) ? above(requester, a.levels) : undefined,
    more: { rule },
  };
}

/**
 * Those who are sought, in the order given, else by name; who has left is left out. Who is away gives way to their delegate,
 * that one to theirs while away too; a circle, or one away without a delegate, answers for nobody. So does their manager, and
 * somebody `stated` besides. One statement for all of it.
 */
async function candidates(tx: Tx, ids: SQL | undefined, stated?: string): Promise<{ people: Candidate[]; answersForStated: string | null }> {
  if (!ids && stated === undefined) return { people: [], answersForStated: null };
  const { rows } = await tx.execute<{ person: string | null; asked: string | null; manager: string | null; sources: number[] | null }>(sql`
    with recursive sought(id, nth, source) as (${ids ?? sql`select null::uuid, 0, null::int where false`}),
    known as (
      select p.id, p.manager_id, p.name, min(s.nth) as nth, min(s.source) as first,
        array_agg(distinct s.source) filter (where s.source is not null) as sources
      from sought s join person p on p.id = s.id and p.active group by p.id
    ),
    line(id, at, away, active, next, seen) as (
      select p.id, p.id, coalesce(p.away_until >= current_date, false), p.active, p.delegate_id, array[p.id]
      from person p where p.id in (select id from known union select manager_id from known) or p.id = ${stated ?? null}::uuid
      union all
      select line.id, p.id, coalesce(p.away_until >= current_date, false), p.active, p.delegate_id, line.seen || p.id
      from line join person p on p.id = line.next
      where line.active and line.away and not p.id = any(line.seen) and cardinality(line.seen) < 20
    ),
    answers as (select id, at from line where active and not away)
    select person, asked, manager, sources from (
      select known.id as person, own.at as asked, theirs.at as manager, known.first, known.nth, known.name, known.sources from known
        left join answers own on own.id = known.id left join answers theirs on theirs.id = known.manager_id
      union all select null, at, null, null, -1, '', null from answers where id = ${stated ?? null}::uuid
    ) found order by first, nth, name, person`);
  const answersForStated = rows.find((r) => r.person === null)?.asked ?? null;
  return {
    people: rows.flatMap((r): Candidate[] => {
      if (r.person === null) return [];
      return [
        {
          person: r.person,
          ...(r.asked === null ? { absent: true } : r.asked !== r.person && { delegate: r.asked }),
          ...(r.manager !== null && { manager: r.manager }),
          ...(r.sources !== null && { sources: r.sources }),
        },
      ];
    }),
    answersForStated,
  };
}
