import { and, eq, sql } from 'drizzle-orm';
import { secondsOf } from '../../core/calendar/index.ts';
import { fieldForRow, rowsThatHold, type TableDefinition } from '../../core/tables/index.ts';
import type { Value } from '../../core/values/index.ts';
import { viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Tx } from '../db/database.ts';
import { item, person, referenceRow, referenceTable, revision, rowAsked } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { submitRequest } from '../requests/submit.ts';
import { addJobs } from '../runtime/jobs.ts';
import { standingRows } from './standing.ts';

/** So many rows are followed after one reading; those left over after the next. */
const most = 500;
/** What could not be asked for is tried again after so long, or sooner where rows are asked about more often. */
const triedAgain = 86_400;

/** Each row of which the condition holds, and of which nothing was asked lately, is to be asked about; their jobs stand to be done. */
export async function askOfRows(tx: Tx, table: string, { asks }: TableDefinition, at: Date): Promise<void> {
  if (!asks) return;
  const keys = rowsThatHold(asks.when, await standingRows(tx, table));
  if (keys.length === 0) return;
  const before = (seconds: number) => new Date(at.getTime() - seconds * 1000).toISOString();
  const again = secondsOf(asks.again);
  const { rows } = await tx.execute<{ id: string }>(sql`
    insert into row_asked (table_id, key, at)
    select ${table}::uuid, k, ${at.toISOString()}::timestamptz from unnest(${sql.param(keys)}::text[]) k
    where not exists (select from row_asked a where a.table_id = ${table}::uuid and a.key = k
      and a.at > case a.state when 'refused' then ${before(Math.min(again, triedAgain))}::timestamptz else ${before(again)}::timestamptz end)
    order by k limit ${most} returning id`);
  await addJobs(
    tx,
    'askOfRow',
    rows.map(({ id }) => ({ payload: { id }, key: `row:${id}` })),
  );
}

type Row = typeof rowAsked.$inferSelect;

/** What follows a row is asked for, once: by whom the row names, else by whom the table does. Where it cannot be, it says why. */
export async function askOfRow(id: string): Promise<void> {
  const [row] = await db().select().from(rowAsked).where(eq(rowAsked.id, id));
  if (row?.state !== 'open') return;
  const [found] = await db()
    .select({ definition: referenceTable.definition, cells: referenceRow.cells, off: referenceRow.retiredAt })
    .from(referenceTable)
    .leftJoin(referenceRow, and(eq(referenceRow.tableId, referenceTable.id), eq(referenceRow.key, row.key)))
    .where(eq(referenceTable.id, row.tableId));
  const asks = found?.definition.asks;
  // What was true when it was read may not be any more.
  if (!asks || !found.cells || found.off || rowsThatHold(asks.when, new Map([[row.key, found.cells]])).length === 0)
    return settle(row, { state: 'over' });
  const [published] = isId(asks.item)
    ? await db()
        .select({ number: revision.number, id: revision.id })
        .from(item)
        .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
        .where(and(eq(item.id, asks.item), sql`${item.archivedAt} is null`))
    : [];
  const field = published && fieldForRow((await definitionOf(db(), published.id)).form, row.tableId);
  if (!published || field === undefined)
    return settle(row, { state: 'refused', why: 'What follows is not published, or its form asks for more than the row.' });
  const named = asks.by === undefined ? undefined : (found.cells[asks.by] as Value | undefined);
  const first = (await knownAs(named)) ?? (await knownAs(asks.orBy));
  const viewer = await asksFor(row, first);
  if (!viewer)
    return settle(row, { state: 'refused', why: 'The row names nobody who works here, and whom the table names instead does not either.' });
  const asked = await submitRequest(viewer, {
    itemId: asks.item,
    revision: published.number,
    answers: { [field]: { table: row.tableId, key: row.key } },
    idempotencyKey: `row ${row.id}`,
  });
  if (asked.ok) return settle(row, { state: 'asked', request: asked.number });
  // A revision that was published this very moment is the one to ask by: the job comes again.
  if (asked.code === 'changed-meanwhile') throw new Error(asked.sentence);
  return settle(row, { state: 'refused', why: asked.problems?.map((p) => p.sentence).join(' ') || asked.sentence, asksId: null });
}

const knownAs = (value: Value | undefined): Promise<Viewer | undefined> | undefined =>
  value !== null && typeof value === 'object' && 'person' in value ? viewerKnownBy(db(), sql`${person.id} = ${value.person}::uuid`) : undefined;

/** Who asks: stated before it is asked, and then always the same. */
async function asksFor(row: Row, first: Viewer | undefined): Promise<Viewer | undefined> {
  const [stated] = await db()
    .update(rowAsked)
    .set({ asksId: sql`coalesce(${rowAsked.asksId}, ${first?.id ?? null}::uuid)` })
    .where(eq(rowAsked.id, row.id))
    .returning({ asksId: rowAsked.asksId });
  const asksId = stated?.asksId ?? null;
  return asksId === null || asksId === first?.id ? first : viewerKnownBy(db(), sql`${person.id} = ${asksId}`);
}

/** It is settled once; that something was asked for by nobody's click stands in the log. */
const settle = (row: Row, change: Partial<Row> & Pick<Row, 'state'>): Promise<void> =>
  db().transaction(async (tx) => {
    const [settled] = await tx
      .update(rowAsked)
      .set(change)
      .where(and(eq(rowAsked.id, row.id), eq(rowAsked.state, 'open')))
      .returning({ id: rowAsked.id });
    if (settled && change.request !== undefined)
      await record(tx, { actor: null, action: 'ask', object: 'table', objectId: row.tableId, detail: { key: row.key, request: change.request } });
  });
