import { and, asc, eq, sql } from 'drizzle-orm';

import { db } from '../db/database.ts';
import { accessGroup, team, person } from '../db/schema/index.ts';

import { anywhere } from '../lists/like.ts';

const few = 8;
const like = (q: string) => anywhere(q.toLowerCase());

export interface Choice {
  id: string;
  name: string;
  detail: string;
}

/** People by a part of their name or address; those whose name begins with it first. */
export async function findPeople(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: person.id, name: person.name, jobRole: person.jobRole, department: person.department })
    .from(person)
    .where(and(eq(person.active, true), sql`(lower(${person.name}) like ${like(q)} or lower(${person.email}) like ${like(q)})`))
    .orderBy(sql`lower(${person.name}) not like ${like(q).slice(1)}`, asc(person.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: [r.jobRole, r.department].filter(Boolean).join(', ') }));
}

export async function findGroups(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: accessGroup.id, name: accessGroup.name, purpose: accessGroup.purpose })
    .from(accessGroup)
    .where(and(eq(accessGroup.gone, false), sql`(lower(${accessGroup.name}) like ${like(q)} or lower(${accessGroup.purpose}) like ${like(q)})`))
    .orderBy(sql`lower(${accessGroup.name}) not like ${like(q).slice(1)}`, asc(accessGroup.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: r.purpose }));
}

/** A name as typed, without scripts: the one person or group that is called exactly so. */
export async function resolveName(kind: 'person' | 'group', name: string): Promise<string | undefined> {
  const key = name.trim().toLowerCase();
  const rows =
    kind === 'person'
      ? await db()
          .select({ id: person.id })
          .from(person)
          .where(and(eq(person.active, true), sql`(lower(${person.name}) = ${key} or lower(${person.email}) = ${key})`))
          .limit(2)
      : await db()
          .select({ id: accessGroup.id })
          .from(accessGroup)
          .where(and(eq(accessGroup.gone, false), sql`lower(${accessGroup.name}) = ${key}`))
          .limit(2);
  return rows.length === 1 ? rows[0]?.id : undefined;
}

/** Teams by name, for giving work to one. */
export const teamChoices = () => db().select({ id: team.id, name: team.name }).from(team).orderBy(team.name);
