import { and, eq, isNull } from 'drizzle-orm';
import type { Cells } from '../../core/tables/index.ts';
import type { Reader } from '../db/database.ts';
import { referenceRow } from '../db/schema/index.ts';

/** What stands in the rows that a table has, by their keys; those that were taken off are not among them. */
export async function standingRows(tx: Reader, table: string): Promise<Map<string, Cells>> {
  const rows = await tx
    .select({ key: referenceRow.key, cells: referenceRow.cells })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, table), isNull(referenceRow.retiredAt)));
  return new Map(rows.map((r) => [r.key, r.cells]));
}
