import { asc, eq } from 'drizzle-orm';
import type { SystemList } from '../../core/systems/index.ts';
import type { TableDefinition } from '../../core/tables/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { referenceTable, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { refuse, type Refusal } from '../refusal.ts';

/** What systems list that a table can be read from; undefined for whom that is not. */
export async function listsOffered(viewer: Viewer): Promise<{ id: string; name: string; lists: SystemList[] }[] | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const systems = await db()
    .select({ id: webSystem.id, name: webSystem.name, definition: webSystem.definition })
    .from(webSystem)
    .orderBy(asc(webSystem.name));
  return systems.flatMap(({ id, name, definition: { lists = [] } }) => (lists.length > 0 ? [{ id, name, lists }] : []));
}

/** Why a table cannot be read as it says; undefined where it can, or is read from nowhere. */
export async function notListed(tx: Reader, { from, columns }: TableDefinition): Promise<Refusal | undefined> {
  if (!from) return undefined;
  const [system] = isId(from.system) ? await tx.select().from(webSystem).where(eq(webSystem.id, from.system)) : [];
  const list = system?.definition.lists?.find((l) => l.id === from.list);
  const lacking = list && from.columns.find((r) => !list.columns.some((c) => c.name === r.of));
  const sentence = !list
    ? 'Not saved: the list that it is to be read from is not there any more. Choose another.'
    : lacking && `Not saved: “${list.label}” has no such column for “${columns.find((c) => c.id === lacking.column)?.label}” any more.`;
  return sentence === undefined ? undefined : refuse('invalid', sentence, [{ field: 'definition', sentence }]);
}

/** The tables that are read from a list of a system that it is not to have any more, by what they are called. */
export async function readersLost(tx: Reader, system: string, lists: readonly SystemList[]): Promise<{ table: string; what: string }[]> {
  const tables = await tx
    .select({ name: referenceTable.name, definition: referenceTable.definition })
    .from(referenceTable)
    .orderBy(referenceTable.name);
  return tables.flatMap(({ name, definition: { from, columns } }) => {
    if (from?.system !== system) return [];
    const list = lists.find((l) => l.id === from.list);
    if (!list) return [{ table: name, what: 'the list' }];
    const lost = from.columns.find((r) => !list.columns.some((c) => c.name === r.of));
    return lost ? [{ table: name, what: `what its column “${columns.find((c) => c.id === lost.column)?.label}” is` }] : [];
  });
}
