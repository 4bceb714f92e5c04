import { and, eq, inArray, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { lineFor } from '../../core/policies/index.ts';
import type { Candidate, RunEvent, Wanted } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { groupPerson, person, policy, team, teamMember } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

type Found = Omit<Extract<RunEvent, { type: 'found' }>, 'type' | 'key'>;

/** Answers a look-up as things are now: people who still work here, with delegate and manager. */
export async function lookUp(tx: Tx, wanted: Wanted, requester: string): Promise<Found> {
  switch (wanted.from) {
    case 'people':
      return { people: await candidates(tx, wanted.people) };
    case 'managerOf': {
      const chain = await chainAbove(tx, wanted.person, wanted.levels);
      return { people: await candidates(tx, chain.length === wanted.levels ? chain.slice(-1) : []) };
    }
    case 'chain':
      return { people: await candidates(tx, await chainAbove(tx, wanted.person, wanted.levels)) };
    case 'ownersOf':
    case 'membersOf': {
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
  const { rows } = await tx.execute<{ id: string }>(sql`
    with recursive up(id, level, seen) as (
      select manager_id, 1, array[id] from person where id = ${of}
      union all
      select p.manager_id, up.level + 1, up.seen || p.id from up join person p on p.id = up.id
      where up.level < ${levels} and not p.id = any(up.seen)
    ) select id from up where id is not null and not id = any(seen) order by level`);
  return rows.map((r) => r.id);
}

/** People by id, in the order given or by name; who has left is left out. */
async function candidates(tx: Tx, ids: string[], order: 'as given' | 'by name' = 'as given'): Promise<Candidate[]> {
  const known = ids.filter(isId);
  if (known.length === 0) return [];
  const manager = alias(person, 'manager');
  const delegate = alias(person, 'delegate');
  const rows = await tx
    .select({
      person: person.id,
      away: sql<boolean>`coalesce(${person.awayUntil} >= current_date, false)`,
      delegate: delegate.id,
      manager: manager.id,
    })
    .from(person)
    .leftJoin(manager, sql`${manager.id} = ${person.managerId} and ${manager.active}`)
    .leftJoin(delegate, sql`${delegate.id} = ${person.delegateId} and ${delegate.active}`)
    .where(and(inArray(person.id, known), eq(person.active, true)))
    .orderBy(person.name);
  const sorted = order === 'by name' ? rows : rows.toSorted((a, b) => known.indexOf(a.person) - known.indexOf(b.person));
  return sorted.map((r) => ({ person: r.person, ...(r.away && r.delegate && { delegate: r.delegate }), ...(r.manager && { manager: r.manager }) }));
}
