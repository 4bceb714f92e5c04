import { and, asc, eq, isNull } from 'drizzle-orm';
import type { SystemList } from '../../core/systems/index.ts';
import { fieldForRow, type TableDefinition } from '../../core/tables/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { item, person, referenceTable, revision, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { namesFor } from '../people/names.ts';
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

/** The published items that can be asked for of a row of a table: those whose form takes the row, and asks nothing that nobody would answer. */
async function fitting(tx: Reader, table: string, only?: string): Promise<{ id: string; name: string }[]> {
  const published = await tx
    .select({ id: item.id, name: item.name, revision: revision.id })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.kind, 'item'), isNull(item.archivedAt), only === undefined ? undefined : eq(item.id, only)))
    .orderBy(asc(item.name));
  const read = await Promise.all(published.map(async (p) => ({ ...p, form: (await definitionOf(tx, p.revision)).form })));
  return read.flatMap(({ id, name, form }) => (fieldForRow(form, table) === undefined ? [] : [{ id, name }]));
}

/** What can follow the rows of a table, and who asks where a row names nobody; undefined for whom that is not. */
export async function itemsForRows(
  viewer: Viewer,
  table: string,
): Promise<{ items: { id: string; name: string }[]; orBy: string | undefined } | undefined> {
  if (!has(viewer, 'designer') || !isId(table)) return undefined;
  const [row] = await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, table));
  if (!row) return undefined;
  const { asks } = row.definition;
  const orBy = asks && (await namesFor(db(), [asks.orBy])).of('person', asks.orBy.person);
  return { items: await fitting(db(), table), orBy };
}

/** Why what is to follow its rows cannot be asked for; undefined where it can, or nothing is to. */
export async function notAsked(tx: Reader, table: string, { asks }: TableDefinition): Promise<Refusal | undefined> {
  if (!asks) return undefined;
  const [who] = isId(asks.orBy.person)
    ? await tx
        .select({ id: person.id })
        .from(person)
        .where(and(eq(person.id, asks.orBy.person), eq(person.active, true)))
    : [];
  const fits = isId(asks.item) && (await fitting(tx, table, asks.item)).length > 0;
  const sentence = !fits
    ? 'Not saved: what is to follow a row is not published, or its form does not take a row of this table and nothing else.'
    : !who && 'Not saved: choose somebody who works here as who asks where a row names nobody.';
  return sentence ? refuse('invalid', sentence, [{ field: 'definition', sentence }]) : undefined;
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
