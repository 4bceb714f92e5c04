import { sql } from 'drizzle-orm';
import { readDocument, tableFormat } from '../../core/documents/index.ts';
import type { Column } from '../../core/forms/index.ts';
import { rowWords, type Cells, type TableDefinition } from '../../core/tables/index.ts';
import { rowId, rowOfId, type Row, type RowRead, type Value, type ValueNames } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';
import { definitionIn, isOffered } from './offered.ts';

/** Rows as a query gives them and takes them: pairs of a table and a key. */
const pairs = (rows: Row[]) => sql`jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as wanted("table" uuid, key text)`;

/** What stands in rows now, in the order asked; also in those that are not offered any more. Null where there is no such row. */
export async function readRows(tx: Reader, wanted: Row[]): Promise<RowRead[]> {
  const known = wanted.filter((r) => isId(r.table));
  const { rows } = known.length
    ? await tx.execute<{ table: string; key: string; cells: Cells }>(
        sql`select r.table_id as "table", r.key, r.cells from ${pairs(known)} join reference_row r on r.table_id = wanted."table" and r.key = wanted.key`,
      )
    : { rows: [] };
  const found = new Map(rows.map((r) => [rowId(r), r.cells]));
  return wanted.map(({ table, key }) => ({ table, key, cells: found.get(rowId({ table, key })) ?? null }));
}

/** Which of these rows are there to be picked. */
export async function offeredRows(tx: Reader, ids: string[]): Promise<string[]> {
  const wanted = ids.flatMap((id) => rowOfId(id) ?? []).filter((r) => isId(r.table));
  if (wanted.length === 0) return [];
  const { rows } = await tx.execute<{ table: string; key: string }>(
    sql`select r.table_id as "table", r.key from ${pairs(wanted)} join reference_row r on r.table_id = wanted."table" and r.key = wanted.key
      join reference_table t on t.id = r.table_id where ${isOffered(sql`r`, sql`t.definition`)}`,
  );
  return rows.map(rowId);
}

/** Rows as they are called, with the columns of their tables. */
export interface NamedRows {
  cells: Map<string, { table: TableDefinition; cells: Cells }>;
  columns: (table: string) => readonly Column[] | undefined;
}

/** What is needed to say rows in words: what stands in them, and the tables they are of. */
export async function namedRows(tx: Reader, ids: string[]): Promise<NamedRows> {
  const wanted = ids.flatMap((id) => rowOfId(id) ?? []).filter((r) => isId(r.table));
  const tables = new Map(
    Object.entries(
      await tablesOf(
        tx,
        wanted.map((r) => r.table),
      ),
    ),
  );
  const cells: NamedRows['cells'] = new Map();
  if (wanted.length > 0) {
    for (const row of await readRows(tx, wanted)) {
      const table = tables.get(row.table);
      if (table && row.cells) cells.set(rowId(row), { table, cells: row.cells as Cells });
    }
  }
  return { cells, columns: (table) => tables.get(table)?.columns };
}

/** What a row is called. */
export const nameOfRow = (found: NamedRows, id: string, names: ValueNames): string | undefined => {
  const row = found.cells.get(id);
  return row && (rowWords(row.table, row.cells, names) || undefined);
};

/** Tables by id, with their columns. */
export async function tablesOf(tx: Reader, ids: string[]): Promise<Record<string, TableDefinition>> {
  const wanted = [...new Set(ids)].filter(isId);
  if (wanted.length === 0) return {};
  const { rows } = await tx.execute<{ id: string; definition: unknown }>(
    sql`select id, definition from reference_table where id = any(${sql.param(wanted)}::uuid[])`,
  );
  return Object.fromEntries(rows.map((t) => [t.id, readDocument(tableFormat, t.definition)]));
}

/** The first rows of a table that are offered, in the order of their keys, with what stands in them. */
export async function firstRows(tx: Reader, table: string, few: number): Promise<{ value: Row; cells: Cells }[]> {
  if (!isId(table)) return [];
  const { rows } = await tx.execute<{ key: string; cells: Cells }>(
    sql`select r.key, r.cells from reference_row r where r.table_id = ${table} and ${isOffered(sql`r`, definitionIn(table))} order by r.key limit ${few}`,
  );
  return rows.map(({ key, cells }) => ({ value: { table, key }, cells }));
}

/** More rows than this one look-up does not find. */
const mostFound = 1000;

/** The rows of a table that are offered now and in which each of these columns says just this, texts whatever their capitals; by their keys. */
export async function rowsWhere(tx: Reader, table: string, where: Readonly<Record<string, Value>>): Promise<Row[]> {
  if (!isId(table)) return [];
  const wanted = JSON.stringify(Object.entries(where).map(([column, value]) => ({ column, value })));
  const { rows } = await tx.execute<{ key: string }>(sql`
    select r.key from reference_row r where r.table_id = ${table} and ${isOffered(sql`r`, definitionIn(table))} and not exists (
      select 1 from jsonb_to_recordset(${wanted}::jsonb) as w("column" text, value jsonb) where not coalesce(
        case when jsonb_typeof(w.value) = 'string' then lower(r.cells ->> w."column") = lower(w.value #>> '{}')
          else r.cells -> w."column" = w.value end, false))
    order by r.key limit ${mostFound}`);
  return rows.map(({ key }) => ({ table, key }));
}
