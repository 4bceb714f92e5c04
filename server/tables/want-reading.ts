import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { tableReading } from '../db/schema/index.ts';
import { addJobs } from '../runtime/jobs.ts';

/** A reading of a table is wanted, and its job stands to be done; several that want one get one. `by`: who asked; null where it is time for it. */
export async function wantTableRead(tx: Tx, table: string, by: string | null): Promise<void> {
  const asked = { askedAt: now(), askedBy: by };
  await tx
    .insert(tableReading)
    .values({ tableId: table, ...asked })
    .onConflictDoUpdate({ target: tableReading.tableId, set: asked });
  await addJobs(tx, 'readTable', [{ payload: { table }, key: `read-table:${table}` }]);
}
