import { inArray } from 'drizzle-orm';
import { namedIn, type NamedKind, type Value, type ValueNames } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { accessGroup, location, person, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** How the names of what is held by an id are read, all of a kind in one go. */
const readers: Record<NamedKind, (tx: Reader, ids: string[]) => Promise<{ id: string; name: string; email?: string }[]>> = {
  person: (tx, ids) => tx.select({ id: person.id, name: person.name, email: person.email }).from(person).where(inArray(person.id, ids)),
  group: (tx, ids) => tx.select({ id: accessGroup.id, name: accessGroup.name }).from(accessGroup).where(inArray(accessGroup.id, ids)),
  location: (tx, ids) => tx.select({ id: location.id, name: location.name }).from(location).where(inArray(location.id, ids)),
  team: (tx, ids) => tx.select({ id: team.id, name: team.name }).from(team).where(inArray(team.id, ids)),
};

/** Names of what values hold by an id. */
export interface Names {
  people: Map<string, { name: string; email: string }>;
  of: ValueNames;
  /** The same by id alone, for forms. */
  short: Record<string, string>;
}

export async function namesFor(tx: Reader, values: Iterable<Value | undefined>, morePeople: string[] = []): Promise<Names> {
  const wanted = new Map<NamedKind, Set<string>>([['person', new Set(morePeople.filter(isId))]]);
  for (const value of values) for (const { kind, id } of namedIn(value)) if (isId(id)) wanted.set(kind, (wanted.get(kind) ?? new Set()).add(id));
  const kinds = [...wanted].filter(([, ids]) => ids.size > 0);
  const found = await Promise.all(kinds.map(async ([kind, ids]) => [kind, await readers[kind](tx, [...ids])] as const));
  const byKind = new Map(found.map(([kind, rows]) => [kind, new Map(rows.map((r) => [r.id, { name: r.name, email: r.email ?? '' }]))]));
  return {
    people: byKind.get('person') ?? new Map(),
    of: (kind, id) => byKind.get(kind)?.get(id)?.name,
    short: Object.fromEntries(found.flatMap(([, rows]) => rows.map((r) => [r.id, r.name]))),
  };
}

/** Names by id, for forms that hold what is named elsewhere. */
export const shortNames = (names: Names): Record<string, string> => names.short;
