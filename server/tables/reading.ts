import { eq, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { addAlways } from '../../core/calendar/index.ts';
import { namesIn, planReading, readColumns, type TableDefinition } from '../../core/tables/index.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { referenceTable, tableReading, webSystem } from '../db/schema/index.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { isId } from '../ids.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { linesWhole } from '../systems/web/listing.ts';
import { askOfRows } from './asking.ts';
import { mostRows, retire, write } from './commands.ts';
import { called, offAmong } from './sheet.ts';
import { standingRows } from './standing.ts';
import { wantTableRead } from './want-reading.ts';

type Read = TableDefinition & { from: NonNullable<TableDefinition['from']> };
/** Of so many rows that cannot be taken the reading says why. */
const told = 20;
/** One that was asked for and never began is asked for again after so long, and one that failed is begun again, in seconds. */
const lostAfter = 300;

/** Every table whose time it is to be read gets its job. */
export async function readTables(): Promise<void> {
  const { rows } = await db().execute<{ id: string }>(sql`
    select t.id from reference_table t left join table_reading r on r.table_id = t.id
    where t.definition ? 'from' and (
      r.table_id is null or coalesce(r.next_at, r.asked_at + ${`${lostAfter} seconds`}::interval) <= ${now().toISOString()}::timestamptz)`);
  for (const { id } of rows) await db().transaction((tx) => wantTableRead(tx, id, null));
}

/**
 * Reads the list that a table is read from, and makes the table say what the list says. A row that cannot be taken is told, and stays as it
 * stood; so does the whole table where the list cannot be had. With the database away the job comes again.
 */
export async function readTable(id: string): Promise<void> {
  const began = now();
  const [table] = await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, id));
  if (!table) return;
  const { definition } = table;
  if (!isRead(definition)) return void (await db().delete(tableReading).where(eq(tableReading.tableId, id)));
  const next = new Date(addAlways(began.toISOString(), definition.from.every));
  await set(id, { beganAt: began, endedAt: null, nextAt: next });
  try {
    const { named, lines, odd } = await listOf(definition);
    await db().transaction((tx) => takeOver(tx, id, definition, began, named, lines, odd));
  } catch (error) {
    if (isDatabaseTrouble(error)) throw error;
    const known = error instanceof PermanentError || error instanceof TransientError;
    const soon = new Date(began.getTime() + lostAfter * 1000);
    await set(id, {
      endedAt: now(),
      nextAt: soon < next ? soon : next,
      cause: heard(known ? error.message : `Unexpected: ${causeWords(error)}`, 1000),
    });
  }
}

const isRead = (definition: TableDefinition): definition is Read => definition.from !== undefined;

const set = async (table: string, change: Partial<typeof tableReading.$inferInsert>): Promise<void> =>
  void (await db()
    .insert(tableReading)
    .values({ tableId: table, askedAt: now(), ...change })
    .onConflictDoUpdate({ target: tableReading.tableId, set: change }));

/** What the list says now, a text a column. */
async function listOf({ from }: Read): Promise<{ named: string[]; lines: string[][]; odd: string[] }> {
  const [system] = isId(from.system) ? await db().select().from(webSystem).where(eq(webSystem.id, from.system)) : [];
  if (!system) throw new PermanentError('The system that it is read from is not registered any more.');
  const list = system.definition.lists?.find((l) => l.id === from.list);
  if (!list) throw new PermanentError(`${system.name} has no such list any more: choose another.`);
  const { rows, odd } = await linesWhole(system, list, mostRows);
  return { named: list.columns.map((c) => c.name), lines: rows, odd };
}

async function takeOver(tx: Tx, id: string, definition: Read, began: Date, named: string[], lines: string[][], odd: string[]): Promise<void> {
  const [now_] = await tx.select().from(referenceTable).where(eq(referenceTable.id, id)).for('no key update');
  const [reading] = await tx.select({ beganAt: tableReading.beganAt }).from(tableReading).where(eq(tableReading.tableId, id)).for('update');
  // What was read for another table than it is now, or before somebody began to read anew, is not taken over any more.
  if (!now_ || JSON.stringify(now_.definition) !== JSON.stringify(definition) || reading?.beganAt?.getTime() !== began.getTime()) return;
  const ids = await called(tx, namesIn(readColumns(definition, named), lines));
  const there = await standingRows(tx, id);
  const planned = planReading(definition, named, { lines, whole: odd.length === 0 }, there, (kind, name) => ids.get(`${kind} ${name}`)?.id);
  if (!planned.ok) throw new PermanentError(planned.sentence);
  const { plan, gone, empty } = planned.reading;
  const off = await offAmong(
    tx,
    id,
    plan.adds.map((a) => a.key),
  );
  await write(tx, null, id, definition, [
    ...plan.adds.map(({ key, cells }) => ({ key, cells, was: off.get(key), back: off.has(key) })),
    ...plan.changes.map(({ key, cells, was }) => ({ key, cells, was })),
  ]);
  if (gone.length > 0) await retire(tx, null, id, gone);
  await askOfRows(tx, id, definition, began);
  const [added, changed, left] = [plan.adds.length, plan.changes.length, gone.length];
  if (added + changed + left > 0) await record(tx, { actor: null, action: 'read', object: 'table', objectId: id, detail: { added, changed, left } });
  const problems = [...plan.refused.flatMap((r) => r.problems.slice(0, 1).map((p) => `Row ${r.line}: ${p.sentence}`)), ...odd];
  const sound = problems.length === 0;
  await tx
    .update(tableReading)
    .set({
      endedAt: now(),
      rows: lines.length + odd.length,
      odd: plan.refused.length + odd.length,
      problems: [...problems, ...empty].slice(0, told).map((p) => heard(p, 300)),
      cause: null,
      ...(sound && { soundAt: began }),
    })
    .where(eq(tableReading.tableId, id));
}
