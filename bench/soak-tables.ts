import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import { machineSizes } from '../demo/processing-machine.ts';
import { standingAfter } from '../core/tables/index.ts';
import { db } from '../server/db/database.ts';
import { referenceChange, referenceRow, tableReading, webSystem } from '../server/db/schema/index.ts';
import { askTableRead, changeTable, createTable } from '../server/tables/commands.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good, type Organisation } from './generated.ts';
import { atPark } from './park.ts';

/** A table is read from the park while the park changes what it lists, fails and refuses, and workers are killed. */
interface Size {
  id: string;
  processors: number;
  memoryGb: number;
  dayEur: string;
  region: string;
}
let sizes = '';
let told = 0;
const designer = (org: Organisation) => viewerFor(org.people['dan']!, 'designer');

/** The table of sizes, read from the park. */
export async function readSizes(org: Organisation): Promise<void> {
  const [park] = await db().select({ id: webSystem.id }).from(webSystem).where(eq(webSystem.name, 'Machine park'));
  const definition = { ...machineSizes(park!.id), name: 'Sizes of the park' };
  const { id } = good(await createTable(designer(org), { name: definition.name }));
  good(await changeTable(designer(org), { id, version: 1, definition }));
  sizes = id;
}

/** The park has other sizes from now on, and its list is read by several hands at once. */
export async function otherSizes(chance: (n: number) => number, org: Organisation): Promise<void> {
  const of = (id: string): Size => ({
    id,
    processors: 1 + chance(16),
    memoryGb: 1 + chance(64),
    dayEur: `${chance(20)}.${10 + chance(90)}`,
    region: chance(2) === 0 ? 'hall' : 'lunnick',
  });
  // The small one is what machines are made of here.
  const next = [
    { ...of('Small'), processors: 1 },
    ...['Medium', 'Large', 'Very large', 'Odd, with a bar | in it'].filter(() => chance(3) > 0).map(of),
  ];
  await atPark('/_sizes', next);
  told++;
  for (const asked of await Promise.all([1, 2].map(() => askTableRead(designer(org), { table: sizes })))) good(asked);
}

/** In the end the table says what the park says, and its history leads to what stands in it. */
export async function lookAtSizes(org: Organisation): Promise<string[]> {
  const wrong: string[] = [];
  const began = new Date();
  good(await askTableRead(designer(org), { table: sizes }));
  let reading: typeof tableReading.$inferSelect | undefined;
  for (let n = 0; n < 120 && !(reading?.soundAt && reading.soundAt >= began && reading.endedAt); n++) {
    await new Promise((r) => setTimeout(r, 250));
    [reading] = await db().select().from(tableReading).where(eq(tableReading.tableId, sizes));
  }
  if (!reading?.soundAt || reading.soundAt < began) wrong.push(`The table of sizes was not read in the end: ${JSON.stringify(reading)}`);
  const { sizes: there } = await atPark<{ sizes: Size[] }>('/park/sizes');
  const rows = await db()
    .select({ key: referenceRow.key, cells: referenceRow.cells })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, sizes), isNull(referenceRow.retiredAt)));
  const said = rows.map((r) => `${String(r.cells['size'])} ${String(r.cells['processors'])} ${String(r.cells['memory'])}`).sort();
  const says = there.map((s) => `${s.id} ${s.processors} ${s.memoryGb}`).sort();
  if (JSON.stringify(said) !== JSON.stringify(says)) wrong.push(`The table of sizes says ${said.join('; ')}; the park says ${says.join('; ')}.`);
  const changes = await db()
    .select({ key: referenceChange.key, column: referenceChange.columnId, was: referenceChange.was, now: referenceChange.now })
    .from(referenceChange)
    .where(eq(referenceChange.tableId, sizes))
    .orderBy(asc(referenceChange.id));
  const stood = standingAfter(changes, machineSizes(''));
  for (const { key, cells } of rows)
    if (JSON.stringify(Object.entries(stood.get(key) ?? {}).sort()) !== JSON.stringify(Object.entries(cells).sort()))
      wrong.push(`The history of ${key} leads to ${JSON.stringify(stood.get(key))}, and ${JSON.stringify(cells)} stands there.`);
  if (stood.size !== rows.length) wrong.push(`The history of the sizes leads to ${stood.size} rows, and ${rows.length} stand there.`);
  const { rows: acts } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from change_log where object = 'table' and object_id = ${sizes} and action = 'read'`,
  );
  console.log(`  the park changed its sizes ${told} times; ${acts[0]!.n} readings changed the table, ${changes.length} cells and rows`);
  return wrong;
}
