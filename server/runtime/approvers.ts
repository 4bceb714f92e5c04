import { eq, inArray, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import type { Candidate, ResolvedApprovers } from '../../core/engine/index.ts';
import type { Tx } from '../db/database.ts';
import { groupPerson, person } from '../db/schema/index.ts';

/** Who a gate's approvers are today: people who still work here, with delegate and manager. */
export async function findApprovers(tx: Tx, wanted: ResolvedApprovers): Promise<Candidate[]> {
  const manager = alias(person, 'manager');
  const delegate = alias(person, 'delegate');
  const ids =
    wanted.from === 'people'
      ? wanted.people
      : wanted.from === 'ownersOf'
        ? tx
            .select({ id: groupPerson.personId })
            .from(groupPerson)
            .where(sql`${groupPerson.groupId} = ${wanted.group} and ${groupPerson.as} = 'owner'`)
        : tx
            .select({ id: sql<string>`${person.managerId}` })
            .from(person)
            .where(eq(person.id, wanted.person));
  if (Array.isArray(ids) && ids.length === 0) return [];
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
    .where(sql`${inArray(person.id, ids as string[])} and ${person.active}`)
    .orderBy(person.name);
  return rows.map((r) => ({ person: r.person, ...(r.away && r.delegate && { delegate: r.delegate }), ...(r.manager && { manager: r.manager }) }));
}
