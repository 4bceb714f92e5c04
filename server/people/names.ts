import { inArray } from 'drizzle-orm';

import { isGroup, isPerson, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { accessGroup, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** Names of the people and groups among values, read in one go each. */
export interface Names {
  people: Map<string, { name: string; email: string }>;
  groups: Map<string, string>;
}

export async function namesFor(tx: Reader, values: Iterable<Value | undefined>, morePeople: string[] = []): Promise<Names> {
  const people = new Set<string>(morePeople.filter(isId));
  const groups = new Set<string>();
  for (const value of values) {
    for (const v of Array.isArray(value) ? value : [value]) {
      if (isPerson(v) && isId(v.person)) people.add(v.person);
      if (isGroup(v) && isId(v.group)) groups.add(v.group);
    }
  }
  const [p, g] = await Promise.all([
    people.size
      ? tx
          .select({ id: person.id, name: person.name, email: person.email })
          .from(person)
          .where(inArray(person.id, [...people]))
      : [],
    groups.size
      ? tx
          .select({ id: accessGroup.id, name: accessGroup.name })
          .from(accessGroup)
          .where(inArray(accessGroup.id, [...groups]))
      : [],
  ]);
  return { people: new Map(p.map((x) => [x.id, { name: x.name, email: x.email }])), groups: new Map(g.map((x) => [x.id, x.name])) };
}

/** Names by id, for forms that hold people and groups. */
export const shortNames = (names: Names): Record<string, string> =>
  Object.fromEntries([...[...names.people].map(([id, p]): [string, string] => [id, p.name]), ...names.groups]);
