import { asc, count, desc, eq, and, sql } from 'drizzle-orm';
import { namedIn } from '../../core/values/index.ts';
import { rowWords, type TableDefinition } from '../../core/tables/index.ts';
import { has, type Roled, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { person, referenceChange, referenceRow, referenceTable, rowAsked, tableReading, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionIn, isOffered } from './offered.ts';
import { keyset, pageBy } from '../lists/keyset.ts';
import { allOf, wordsInSmall } from '../lists/narrow.ts';
import { namesFor, shortNames } from '../people/names.ts';
import { stampOf } from './stamp.ts';
import { usesOf } from './uses.ts';
import { keepsRows, tablesKeptBy } from './whose.ts';

/** One table, and how many rows it offers. */
export async function tableOf(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const [row] = await db().select().from(referenceTable).where(eq(referenceTable.id, id));
  if (!row || !(await keepsRows(db(), viewer, row.definition))) return undefined;
  const rows = await db().$count(referenceRow, and(eq(referenceRow.tableId, id), sql`${referenceRow.retiredAt} is null`));
  const stamp = await stampOf(db(), id);
  return { id: row.id, version: row.version, definition: row.definition, offered: row.offered, rows, stamp };
}

/** Whether somebody keeps the rows of a table. */
async function keeps(viewer: Viewer, id: string): Promise<boolean> {
  const [row] = isId(id) ? await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, id)) : [];
  return row !== undefined && keepsRows(db(), viewer, row.definition);
}

/** The tables whose rows somebody keeps as one of the group that owns them. */
export const myTables = (viewer: Viewer) => tablesKeptBy(db(), viewer);

/** What the group is called that keeps a table. */
export const ownersName = async ({ owners }: Pick<TableDefinition, 'owners'>): Promise<string | undefined> =>
  owners && (await namesFor(db(), [owners])).of('group', owners.group);

/** How the reading of a table went that is read from a system; undefined where it is kept by hand, or not for the viewer. */
export async function readingOf(viewer: Viewer, id: string) {
  const [row] = isId(id)
    ? await db()
        .select({ definition: referenceTable.definition, reading: tableReading })
        .from(referenceTable)
        .leftJoin(tableReading, eq(tableReading.tableId, referenceTable.id))
        .where(eq(referenceTable.id, id))
    : [];
  if (!row || !(await keepsRows(db(), viewer, row.definition))) return undefined;
  const { from } = row.definition;
  if (!from) return undefined;
  const [system] = isId(from.system) ? await db().select().from(webSystem).where(eq(webSystem.id, from.system)) : [];
  const list = system?.definition.lists?.find((l) => l.id === from.list);
  const { reading } = row;
  const followed = row.definition.asks
    ? await db().select({ state: rowAsked.state, n: count() }).from(rowAsked).where(eq(rowAsked.tableId, id)).groupBy(rowAsked.state)
    : undefined;
  const underWay = !reading || reading.beganAt === null || reading.askedAt > reading.beganAt || reading.endedAt === null;
  return {
    system: system?.name ?? 'a system that is not registered any more',
    list: list?.label ?? from.list,
    every: from.every,
    underWay,
    ...(followed && {
      followed: Object.fromEntries(followed.map((f) => [f.state, f.n])) as Partial<Record<(typeof followed)[number]['state'], number>>,
    }),
    ...(reading && {
      endedAt: reading.endedAt,
      soundAt: reading.soundAt,
      listed: reading.rows,
      odd: reading.odd,
      problems: reading.problems,
      cause: reading.cause,
    }),
  };
}

/** What reads a table. */
export const tableUses = async (viewer: Viewer, id: string) => (has(viewer, 'designer') && isId(id) ? usesOf(db(), id) : undefined);

/** What is asked of a table's rows. */
export interface RowsAsked {
  words: string;
  /** Those that were taken off, in place of those that are offered. */
  off: boolean;
  after?: string | undefined;
}

/** Rows of a table by their keys, a page at a time. */
export async function rowsOf(viewer: Viewer, id: string, asked: RowsAsked, size = 100) {
  if (!(await keeps(viewer, id))) return undefined;
  const { after, orderBy, sortKeys } = keyset([{ of: sql`r.key`, as: 'text' }], false, asked.after);
  const { rows } = await db().execute<{
    key: string;
    cells: typeof referenceRow.$inferSelect.cells;
    version: number;
    retired: boolean;
    sortKeys: string[];
  }>(sql`
    select r.key, r.cells, r.version, r.retired_at is not null as retired, ${sortKeys} as "sortKeys" from reference_row r
    where ${allOf([sql`r.table_id = ${id}::uuid`, asked.off ? sql`r.retired_at is not null` : sql`r.retired_at is null`, wordsInSmall(sql`r.words`, asked.words), after])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  const names = await namesFor(
    db(),
    page.rows.flatMap((r) => Object.values(r.cells)),
  );
  return { next: page.next, rows: page.rows.map(({ sortKeys: _, ...r }) => r), names: shortNames(names) };
}

/** One row with what was changed in it, and what followed on it, the latest first. */
export async function rowOf(viewer: Viewer, id: string, key: string) {
  if (!(await keeps(viewer, id))) return undefined;
  const [row] = await db()
    .select({ key: referenceRow.key, cells: referenceRow.cells, version: referenceRow.version, retiredAt: referenceRow.retiredAt })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, id), eq(referenceRow.key, key)));
  if (!row) return undefined;
  const changes = await db()
    .select({
      id: referenceChange.id,
      column: referenceChange.columnId,
      was: referenceChange.was,
      now: referenceChange.now,
      at: referenceChange.at,
      by: person.name,
    })
    .from(referenceChange)
    .leftJoin(person, eq(person.id, referenceChange.by))
    .where(and(eq(referenceChange.tableId, id), eq(referenceChange.key, key)))
    .orderBy(desc(referenceChange.id))
    .limit(100);
  const asked = await db()
    .select({ id: rowAsked.id, at: rowAsked.at, state: rowAsked.state, request: rowAsked.request, why: rowAsked.why, by: person.name })
    .from(rowAsked)
    .leftJoin(person, eq(person.id, rowAsked.asksId))
    .where(and(eq(rowAsked.tableId, id), eq(rowAsked.key, key)))
    .orderBy(desc(rowAsked.at))
    .limit(20);
  const names = await namesFor(db(), [...Object.values(row.cells), ...changes.flatMap((c) => [c.was, c.now])]);
  return { ...row, changes, asked, names: shortNames(names) };
}

const few = 20;

/**
 * Rows of a table by a part of what they are called. A designer finds them by all that stands in them, too; who is none finds those
 * of tables that a published form offers, and learns nothing of their other columns.
 */
export async function findRows(viewer: Roled, table: string, q: string) {
  if (!isId(table)) return [];
  const [row] = await db()
    .select({ offered: referenceTable.offered, definition: referenceTable.definition })
    .from(referenceTable)
    .where(eq(referenceTable.id, table));
  if (!row || !(row.offered || has(viewer, 'designer'))) return [];
  const { definition } = row;
  const title = sql`split_part(${referenceRow.words}, E'\\n', 1)`;
  const rows = await db()
    .select({ key: referenceRow.key, cells: referenceRow.cells })
    .from(referenceRow)
    .where(
      allOf([
        eq(referenceRow.tableId, table),
        isOffered(sql`${referenceRow}`, definitionIn(table)),
        wordsInSmall(has(viewer, 'designer') ? referenceRow.words : title, q),
      ]),
    )
    .orderBy(sql`${referenceRow.words} not like ${`${q.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`}`, asc(referenceRow.key))
    .limit(few);
  const keyCells = rows.flatMap((r) => definition.key.map((id) => r.cells[id]));
  const names = await namesFor(db(), keyCells.some((c) => namedIn(c).length > 0) ? keyCells : []);
  return rows.map((r) => ({ id: `${table}/${r.key}`, name: rowWords(definition, r.cells, names.of) || r.key, detail: '' }));
}

/** The row that is called exactly so, typed out without scripts. */
export async function rowCalled(viewer: Roled, table: string, name: string): Promise<string | undefined> {
  const found = (await findRows(viewer, table, name)).filter((r) => r.name.toLowerCase() === name.trim().toLowerCase());
  return found.length === 1 ? found[0]!.id : undefined;
}
