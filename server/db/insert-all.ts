import { getTableColumns, sql } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import type { Tx } from './database.ts';

/**
 * Inserts rows, however many, with one parameter: the statement's text depends on the columns alone, so that it is planned
 * once for a connection, and building it costs the same for one row as for hundreds. All rows state the same columns; what
 * they leave out has its default. They are inserted in their order.
 */
export async function insertAll<T extends PgTable>(tx: Tx, table: T, rows: T['$inferInsert'][]): Promise<void> {
  const [first] = rows;
  if (!first) return;
  const columns = Object.entries(getTableColumns(table)).filter(([key]) => key in first);
  const given = rows.map((row) =>
    Object.fromEntries(columns.map(([key, column]) => [column.name, (row as Record<string, unknown>)[key] ?? null] as const)),
  );
  const names = sql.join(
    columns.map(([, column]) => sql.identifier(column.name)),
    sql`, `,
  );
  await tx.execute(
    sql`insert into ${table} (${names}) select ${names} from jsonb_populate_recordset(null::${table}, ${JSON.stringify(given)}::jsonb)`,
  );
}
