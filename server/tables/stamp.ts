import { sql } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';

/** What tells one state of a table's rows from another: the last change there was. */
export async function stampOf(tx: Reader, id: string): Promise<string> {
  const { rows } = await tx.execute<{ stamp: string | null }>(sql`select max(id)::text as stamp from reference_change where table_id = ${id}`);
  return rows[0]?.stamp ?? '0';
}
