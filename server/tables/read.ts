import { sql } from 'drizzle-orm';
import { readDocument, tableFormat } from '../../core/documents/index.ts';
import type { Column } from '../../core/forms/index.ts';
import { rowWords, type Cells, type TableDefinition } from '../../core/tables/index.ts';
import { rowId, rowOfId, type Row, type RowRead, type ValueNames } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';

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
    sql`select r.table_id as "table", r.key from ${pairs(wanted)} join reference_row r on r.table_id = wanted."table" and r.key = wanted.key where r.retired_at is null`,
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
  const tables = new Map<string, TableDefinition>();
  const cells: NamedRows['cells'] = new Map();
  if (wanted.length > 0) {
    const defined = await tx.execute<{ id: string; definition: unknown }>(
      sql`select id, definition from reference_table where id = any(${sql.param([...new Set(wanted.map((r) => r.table))])}::uuid[])`,
    );
    for (const t of defined.rows) tables.set(t.id, readDocument(tableFormat, t.definition));
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
