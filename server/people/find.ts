import { alias } from 'drizzle-orm/pg-core';
import type { CalledKind } from '../../core/values/index.ts';
import { and, asc, count, eq, sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { accessGroup, location, person, team, ticketKind } from '../db/schema/index.ts';

import { findItems } from '../items/offered.ts';
import { anywhere } from '../lists/like.ts';

const few = 8;
const like = (q: string) => anywhere(q.toLowerCase());

export interface Choice {
  id: string;
  name: string;
  detail: string;
}

/** All places by name, for choosing one. */
export const placesByName = () => db().select({ id: location.id, name: location.name }).from(location).orderBy(location.name);

/** Where somebody works. */
export async function placeOf(personId: string): Promise<{ id: string; name: string } | undefined> {
  const [row] = await db()
    .select({ id: location.id, name: location.name })
    .from(person)
    .innerJoin(location, eq(location.id, person.locationId))
    .where(eq(person.id, personId));
  return row;
}

/** Somebody by their id. */
export async function personNamed(id: string): Promise<{ id: string; name: string } | undefined> {
  const [row] = await db().select({ id: person.id, name: person.name }).from(person).where(eq(person.id, id));
  return row;
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

async function findGroups(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: accessGroup.id, name: accessGroup.name, purpose: accessGroup.purpose })
    .from(accessGroup)
    .where(and(eq(accessGroup.gone, false), sql`(lower(${accessGroup.name}) like ${like(q)} or lower(${accessGroup.purpose}) like ${like(q)})`))
    .orderBy(sql`lower(${accessGroup.name}) not like ${like(q).slice(1)}`, asc(accessGroup.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: r.purpose }));
}

/** Places by a part of their name, with what they are in. */
async function findLocations(q: string): Promise<Choice[]> {
  const around = alias(location, 'around');
  const rows = await db()
    .select({ id: location.id, name: location.name, kind: location.kind, inside: around.name })
    .from(location)
    .leftJoin(around, eq(around.id, location.parentId))
    .where(sql`lower(${location.name}) like ${like(q)}`)
    .orderBy(sql`lower(${location.name}) not like ${like(q).slice(1)}`, asc(location.name))
    .limit(few);
  return rows.map((r) => ({ id: r.id, name: r.name, detail: [r.kind, r.inside].filter(Boolean).join(', ') }));
}

async function findTeams(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: team.id, name: team.name })
    .from(team)
    .where(sql`lower(${team.name}) like ${like(q)}`)
    .orderBy(sql`lower(${team.name}) not like ${like(q).slice(1)}`, asc(team.name))
    .limit(few);
  return rows.map((r) => ({ ...r, detail: '' }));
}

async function findKinds(q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ id: ticketKind.id, name: ticketKind.name })
    .from(ticketKind)
    .where(sql`lower(${ticketKind.name}) like ${like(q)}`)
    .orderBy(sql`lower(${ticketKind.name}) not like ${like(q).slice(1)}`, asc(ticketKind.name))
    .limit(few);
  return rows.map((r) => ({ ...r, detail: '' }));
}

/** Departments or job roles that people here have, by a part of what they are called. */
async function findFacts(fact: typeof person.department | typeof person.jobRole, q: string): Promise<Choice[]> {
  const rows = await db()
    .select({ name: fact, many: count() })
    .from(person)
    .where(and(eq(person.active, true), sql`lower(${fact}) like ${like(q)}`))
    .groupBy(fact)
    .orderBy(sql`lower(${fact}) not like ${like(q).slice(1)}`, asc(fact))
    .limit(few);
  return rows.flatMap((r) => (r.name === null ? [] : [{ id: r.name, name: r.name, detail: r.many === 1 ? '1 person' : `${r.many} people` }]));
}

/** What is picked by its name: what values name, and items. Rows of a table are found within it (`findRows`). */
export type FoundKind = CalledKind | 'item' | 'department' | 'job' | 'kind';

/** How each kind of named thing is found by a part of its name. */
export const finders: Record<FoundKind, (q: string, viewer: Viewer) => Promise<Choice[]>> = {
  item: (q, viewer) => findItems(viewer, q),
  person: findPeople,
  group: findGroups,
  location: findLocations,
  team: findTeams,
  kind: findKinds,
  department: (q) => findFacts(person.department, q),
  job: (q) => findFacts(person.jobRole, q),
};
export const isFound = (kind: string): kind is FoundKind => Object.hasOwn(finders, kind);

/** A name as typed, without scripts: the one thing of its kind that is called exactly so. */
export async function resolveName(kind: CalledKind, name: string): Promise<string | undefined> {
  const key = name.trim().toLowerCase();
  const rows = await called[kind](key);
  return rows.length === 1 ? rows[0]?.id : undefined;
}

/** Teams by name, for giving work to one. */
export const teamChoices = () => db().select({ id: team.id, name: team.name }).from(team).orderBy(team.name);

const called: Record<CalledKind, (key: string) => Promise<{ id: string }[]>> = {
  person: (key) =>
    db()
      .select({ id: person.id })
      .from(person)
      .where(and(eq(person.active, true), sql`(lower(${person.name}) = ${key} or lower(${person.email}) = ${key})`))
      .limit(2),
  group: (key) =>
    db()
      .select({ id: accessGroup.id })
      .from(accessGroup)
      .where(and(eq(accessGroup.gone, false), sql`lower(${accessGroup.name}) = ${key}`))
      .limit(2),
  location: (key) =>
    db()
      .select({ id: location.id })
      .from(location)
      .where(sql`lower(${location.name}) = ${key}`)
      .limit(2),
  team: (key) =>
    db()
      .select({ id: team.id })
      .from(team)
      .where(sql`lower(${team.name}) = ${key}`)
      .limit(2),
};
