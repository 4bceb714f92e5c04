import { eq } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { person, systemOwner, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { ownActionSpecs } from './index.ts';
import { ownSystems } from './own.ts';
import { systemOf } from './whose.ts';

/**
 * A system, with who answers for it: one that is built in, or a registered one, of which a secret is only said to be there or not.
 * `definition` is undefined for what is built in.
 */
export async function systemFor(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer', 'administrator')) return undefined;
  const [row] = isId(id) ? await db().select().from(webSystem).where(eq(webSystem.id, id)) : [];
  const ownName = ownSystems.get(id);
  if (!row && ownName === undefined) return undefined;
  const owners = await db()
    .select({ id: person.id, name: person.name })
    .from(systemOwner)
    .innerJoin(person, eq(person.id, systemOwner.personId))
    .where(eq(systemOwner.system, id))
    .orderBy(person.name);
  return {
    id,
    name: row?.name ?? ownName ?? '',
    definition: row?.definition,
    hasSecret: row ? row.sealedSecret !== null : false,
    hasAnswerKey: row ? row.sealedAnswerKey !== null : false,
    actions: row?.definition.actions.map((a) => a.label) ?? ownActionSpecs.filter((a) => systemOf(a.id) === id).map((a) => a.label),
    lists: row?.definition.lists?.map((l) => l.label) ?? [],
    owners,
  };
}
