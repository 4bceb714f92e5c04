import { sql, type SQL } from 'drizzle-orm';
import { now } from '../clock.ts';

/** Whether a row is offered, and found, today: it was not taken off, and its first and last day, where its table has columns for them, are not past. */
export function isOffered(row: SQL, definition: SQL): SQL {
  const day = now().toISOString().slice(0, 10);
  const cell = (which: SQL) => sql`${row}.cells ->> (${definition} #>> ${which})`;
  return sql`(${row}.retired_at is null and coalesce(${cell(sql`'{validity,from}'`)}, '0000') <= ${day} and coalesce(${cell(sql`'{validity,until}'`)}, '9999') >= ${day})`;
}

/** The definition of one table, read once for a whole query. */
export const definitionIn = (table: string): SQL => sql`(select t.definition from reference_table t where t.id = ${table}::uuid)`;
