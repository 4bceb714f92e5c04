import { and, eq, inArray } from 'drizzle-orm';
import { namedIn, Value, type NamedKind } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { accessGroup, location, person, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** Which of these there are, and can be asked for: people who work here, groups that are not gone. */
const there: Record<NamedKind, (tx: Reader, ids: string[]) => Promise<{ id: string }[]>> = {
  person: (tx, ids) =>
    tx
      .select({ id: person.id })
      .from(person)
      .where(and(inArray(person.id, ids), eq(person.active, true))),
  group: (tx, ids) =>
    tx
      .select({ id: accessGroup.id })
      .from(accessGroup)
      .where(and(inArray(accessGroup.id, ids), eq(accessGroup.gone, false))),
  location: (tx, ids) => tx.select({ id: location.id }).from(location).where(inArray(location.id, ids)),
  team: (tx, ids) => tx.select({ id: team.id }).from(team).where(inArray(team.id, ids)),
};

/** What answers hold by an id and what exists, as "person …", "group …" and so on. */
export async function existing(tx: Reader, answers: Record<string, unknown>): Promise<Set<string>> {
  const wanted = new Map<NamedKind, string[]>();
  for (const answer of Object.values(answers)) {
    const parsed = Value.safeParse(answer);
    for (const { kind, id } of parsed.success ? namedIn(parsed.data) : []) if (isId(id)) wanted.set(kind, [...(wanted.get(kind) ?? []), id]);
  }
  const found = await Promise.all([...wanted].map(async ([kind, ids]) => (await there[kind](tx, ids)).map((r) => `${kind} ${r.id}`)));
  return new Set(found.flat());
}
