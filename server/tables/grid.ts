import { and, eq, sql } from 'drizzle-orm';
import type { Column } from '../../core/forms/index.ts';
import {
  keysOfEdits,
  mostEdits,
  namesIn,
  planEdits,
  writtenCell,
  type Cells,
  type EditPlan,
  type RowEdit,
  type StandingRow,
} from '../../core/tables/index.ts';
import { own } from '../../core/boundary/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Reader } from '../db/database.ts';
import { referenceRow, referenceTable } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { namesFor, type Names } from '../people/names.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { mostRows, retire, write } from './commands.ts';
import { called } from './sheet.ts';
import { stampOf } from './stamp.ts';
import { keepsRows, notTheirs } from './whose.ts';

/** A row as a grid shows it: its cells as they are typed, in the order of the columns. */
export interface GridRow {
  key: string;
  version: number;
  texts: string[];
}

/** The texts of a row's cells; of two who are called the same, the address tells which. */
function textsOf(columns: readonly Column[], cells: Cells, names: Names): string[] {
  return columns.map((column) => {
    const value = own(cells, column.id) ?? null;
    const person = value !== null && typeof value === 'object' && 'person' in value ? names.people.get(value.person) : undefined;
    if (!person) return writtenCell(column, value, names.of);
    const shared = [...names.people.values()].some((p) => p !== person && p.name === person.name);
    return shared ? person.email : person.name;
  });
}

/** Every row that a table offers, by key; undefined where the viewer may not see it. `stamp` tells one state of the table from another. */
export async function gridOf(viewer: Viewer, id: string): Promise<{ rows: GridRow[]; stamp: string } | undefined> {
  if (!isId(id)) return undefined;
  const [table] = await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, id));
  if (!table || !(await keepsRows(db(), viewer, table.definition))) return undefined;
  const stamp = await stampOf(db(), id);
  const rows = await db()
    .select({ key: referenceRow.key, version: referenceRow.version, cells: referenceRow.cells })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, id), sql`${referenceRow.retiredAt} is null`))
    .orderBy(referenceRow.key);
  const names = await namesFor(
    db(),
    rows.flatMap((r) => Object.values(r.cells)),
  );
  const { columns } = table.definition;
  return { rows: rows.map(({ key, version, cells }) => ({ key, version, texts: textsOf(columns, cells, names) })), stamp };
}

export interface GridChange {
  table: string;
  edits: RowEdit[];
  /** `rest`: what cannot be taken is refused, and the rest goes in; `all`: nothing does. */
  take: 'rest' | 'all';
}

/** Takes what was typed into cells, however many rows; says of every row how it stands now, and of every cell that is refused why. */
export async function changeCells(
  viewer: Viewer,
  input: GridChange,
): Promise<Result<{ rows: ({ id: string } & GridRow)[]; refused: EditPlan['refused']; stamp: string }>> {
  if (input.edits.length > mostEdits) return refuse('invalid', `At most ${mostEdits.toLocaleString('en')} rows are changed in one go.`);
  if (!isId(input.table)) return notFound('This table');
  return db().transaction(async (tx): Promise<Result<{ rows: ({ id: string } & GridRow)[]; refused: EditPlan['refused']; stamp: string }>> => {
    const [table] = await tx.select().from(referenceTable).where(eq(referenceTable.id, input.table)).for('no key update');
    if (!table) return notFound('This table');
    const notSo = await notTheirs(tx, viewer, table.definition);
    if (notSo) return notSo;
    const { definition } = table;
    const { columns } = definition;
    const lines = input.edits.map((e) => columns.map((c) => own(e.texts, c.id) ?? ''));
    const ids = await called(tx, namesIn(columns, lines));
    const idOf: Parameters<typeof planEdits>[3] = (kind, name) => ids.get(`${kind} ${name}`)?.id;
    const there = await standing(
      tx,
      input.table,
      input.edits.flatMap((e) => (e.row ? [e.row.key] : [])),
    );
    for (const [key, row] of await standing(tx, input.table, keysOfEdits(definition, input.edits, there, idOf))) there.set(key, row);
    const plan = planEdits(definition, input.edits, there, idOf);
    if (input.take === 'all' && plan.refused.length > 0) return { ok: true, rows: [], refused: plan.refused, stamp: await stampOf(tx, input.table) };
    const added = plan.written.filter((r) => r.from === undefined && !there.has(r.key)).length;
    if (added > 0 && (await tx.$count(referenceRow, eq(referenceRow.tableId, input.table))) + added > mostRows)
      return refuse('invalid', `A table holds at most ${mostRows.toLocaleString('en')} rows.`);
    const becomes = new Set(plan.written.map((r) => r.key));
    const left = plan.written.flatMap((r) => (r.from !== undefined && r.from !== r.key && !becomes.has(r.from) ? [r.from] : []));
    if (left.length > 0) await retire(tx, viewer.id, input.table, left);
    await write(
      tx,
      viewer.id,
      input.table,
      definition,
      plan.written.map(({ key, cells }) => ({ key, cells, was: there.get(key)?.cells, back: there.get(key)?.off === true })),
    );
    if (plan.written.length > 0)
      await record(tx, {
        actor: viewer.id,
        action: 'change-cells',
        object: 'table',
        objectId: input.table,
        detail: { keys: plan.written.slice(0, 20).map((r) => r.key), rows: plan.written.length, refused: plan.refused.length },
      });
    const names = await namesFor(
      tx,
      plan.written.flatMap((r) => Object.values(r.cells)),
    );
    const rows = plan.written.map(({ id, key, cells }) => ({
      id,
      key,
      version: (there.get(key)?.version ?? 0) + 1,
      texts: textsOf(columns, cells, names),
    }));
    return { ok: true, rows, refused: plan.refused, stamp: await stampOf(tx, input.table) };
  });
}

async function standing(tx: Reader, table: string, keys: string[]): Promise<Map<string, StandingRow>> {
  if (keys.length === 0) return new Map();
  const { rows } = await tx.execute<{ key: string; cells: Cells; version: number; off: boolean }>(
    sql`select key, cells, version, retired_at is not null as off from reference_row where table_id = ${table} and key = any(${sql.param(keys)}::text[])`,
  );
  return new Map(rows.map(({ key, ...row }) => [key, row]));
}
