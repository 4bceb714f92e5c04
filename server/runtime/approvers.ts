import { and, eq, inArray, sql } from 'drizzle-orm';
import { lineFor } from '../../core/policies/index.ts';
import type { Candidate, RunEvent, Wanted } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { groupPerson, person, policy, team, teamMember } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

type Found = Omit<Extract<RunEvent, { type: 'found' }>, 'type' | 'key'>;

/**
 * Answers a look-up as things are now: people who still work here, with delegate and manager. `stated`: somebody a gate
 * names for when nobody is found, of whom it is said who answers for them.
 */
export async function lookUp(tx: Tx, wanted: Wanted, requester: string, stated?: string): Promise<Found> {
  const found = await lookUpOnly(tx, wanted, requester);
  if (stated === undefined) return found;
  return { ...found, stated: isId(stated) ? ((await whoAnswersFor(tx, [stated])).get(stated) ?? null) : null };
}

async function lookUpOnly(tx: Tx, wanted: Wanted, requester: string): Promise<Found> {
  switch (wanted.from) {
    case 'people':
      return { people: await candidates(tx, wanted.people) };
    case 'managerOf': {
      if (!isId(wanted.person)) return { people: [] };
      const chain = await chainAbove(tx, wanted.person, wanted.levels);
      return { people: await candidates(tx, chain.length === wanted.levels ? chain.slice(-1) : []) };
    }
    case 'chain':
      return { people: await candidates(tx, await chainAbove(tx, wanted.person, wanted.levels)) };
    case 'ownersOf':
    case 'membersOf': {
      if (!isId(wanted.group)) return { people: [] };
      const as = wanted.from === 'ownersOf' ? 'owner' : 'member';
      const rows = await tx
        .select({ id: groupPerson.personId })
        .from(groupPerson)
        .where(and(eq(groupPerson.groupId, wanted.group), eq(groupPerson.as, as)));
      return {
        people: await candidates(
          tx,
          rows.map((r) => r.id),
          'by name',
        ),
      };
    }
    case 'team':
      return teamPeople(tx, wanted.team);
    case 'reportsOf': {
      if (!isId(wanted.person)) return { people: [] };
      const rows = await tx.select({ id: person.id }).from(person).where(eq(person.managerId, wanted.person));
      return {
        people: await candidates(
          tx,
          rows.map((r) => r.id),
          'by name',
        ),
      };
    }
    case 'policy':
      return byPolicy(tx, wanted, requester);
  }
}

async function teamPeople(tx: Tx, id: string): Promise<Found> {
  const [known] = isId(id) ? await tx.select({ id: team.id }).from(team).where(eq(team.id, id)) : [];
  if (!known) return { people: [], problem: 'The team does not exist any more.' };
  const rows = await tx.select({ id: teamMember.personId }).from(teamMember).where(eq(teamMember.teamId, id));
  return {
    people: await candidates(
      tx,
      rows.map((r) => r.id),
      'by name',
    ),
  };
}

async function byPolicy(tx: Tx, wanted: Extract<Wanted, { from: 'policy' }>, requester: string): Promise<Found> {
  const [row] = isId(wanted.policy) ? await tx.select({ definition: policy.definition }).from(policy).where(eq(policy.id, wanted.policy)) : [];
  if (!row) return { people: [], problem: 'The approval policy does not exist any more.' };
  const line = lineFor(row.definition, wanted.values);
  if (!line) return { people: [] };
  const { approvers: a, rule } = line;
  if (a.from === 'nobody') return { people: [], passes: `The policy “${row.definition.name}” asks nobody here.` };
  if (a.from === 'team') return { ...(await teamPeople(tx, a.team)), rule };
  const ids = a.from === 'people' ? a.people.map((p) => p.person) : await chainAbove(tx, requester, a.levels);
  return { people: await candidates(tx, ids), rule };
}

/** The managers above a person, the nearest first, at most so many; a circle in the directory ends it. */
async function chainAbove(tx: Tx, of: string, levels: number): Promise<string[]> {
  if (!isId(of)) return [];
  const { rows } = await tx.execute<{ id: string }>(sql`
    with recursive up(id, level, seen) as (
      select manager_id, 1, array[id] from person where id = ${of}
      union all
      select p.manager_id, up.level + 1, up.seen || p.id from up join person p on p.id = up.id
      where up.level < ${levels} and not p.id = any(up.seen)
    ) select id from up where id is not null and not id = any(seen) order by level`);
  return rows.map((r) => r.id);
}

/**
 * People by id, in the order given or by name; who has left is left out. Who is away gives way to their delegate, that one
 * to theirs while away too; a circle, or one away without a delegate, answers for nobody. So does their manager.
 */
async function candidates(tx: Tx, ids: string[], order: 'as given' | 'by name' = 'as given'): Promise<Candidate[]> {
  const known = ids.filter(isId);
  if (known.length === 0) return [];
  const rows = await tx
    .select({ person: person.id, manager: person.managerId })
    .from(person)
    .where(and(inArray(person.id, known), eq(person.active, true)))
    .orderBy(person.name);
  const answers = await whoAnswersFor(tx, [...new Set(rows.flatMap((r) => [r.person, ...(r.manager ? [r.manager] : [])]))]);
  const sorted = order === 'by name' ? rows : rows.toSorted((a, b) => known.indexOf(a.person) - known.indexOf(b.person));
  return sorted.map((r): Candidate => {
    const asked = answers.get(r.person);
    const manager = r.manager ? answers.get(r.manager) : undefined;
    return {
      person: r.person,
      ...(asked === undefined ? { absent: true } : asked !== r.person && { delegate: asked }),
      ...(manager !== undefined && { manager }),
    };
  });
}

/** Who answers for each of these people now: themselves, or the end of their line of delegates; missing where nobody does. */
async function whoAnswersFor(tx: Tx, ids: string[]): Promise<Map<string, string>> {
  if (ids.length === 0) return new Map();
  const { rows } = await tx.execute<{ id: string; answers: string }>(sql`
    with recursive line(id, at, away, active, next, seen) as (
      select p.id, p.id, coalesce(p.away_until >= current_date, false), p.active, p.delegate_id, array[p.id]
      from person p where p.id = any(${sql.param(ids)}::uuid[])
      union all
      select line.id, p.id, coalesce(p.away_until >= current_date, false), p.active, p.delegate_id, line.seen || p.id
      from line join person p on p.id = line.next
      where line.active and line.away and not p.id = any(line.seen) and cardinality(line.seen) < 20
    ) select id, at as answers from line where active and not away`);
  return new Map(rows.map((r) => [r.id, r.answers]));
}
