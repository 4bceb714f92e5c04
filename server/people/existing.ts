import { and, eq, inArray } from 'drizzle-orm';
import { isGroup, isPerson, Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { accessGroup, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** The persons and groups among answers that exist and are active. */
export async function existing(tx: Reader, answers: Record<string, unknown>): Promise<Set<string>> {
  const values = Object.values(answers).flatMap((v) => {
    const parsed = Value.safeParse(v);
    return parsed.success ? (Array.isArray(parsed.data) ? parsed.data : [parsed.data]) : [];
  });
  const people = values.flatMap((v) => (isPerson(v) && isId(v.person) ? [v.person] : []));
  const groups = values.flatMap((v) => (isGroup(v) && isId(v.group) ? [v.group] : []));
  const [p, g] = await Promise.all([
    people.length
      ? tx
          .select({ id: person.id })
          .from(person)
          .where(and(inArray(person.id, people), eq(person.active, true)))
      : [],
    groups.length
      ? tx
          .select({ id: accessGroup.id })
          .from(accessGroup)
          .where(and(inArray(accessGroup.id, groups), eq(accessGroup.gone, false)))
      : [],
  ]);
  return new Set([...p.map((x) => `person ${x.id}`), ...g.map((x) => `group ${x.id}`)]);
}
