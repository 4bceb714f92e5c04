import { and, eq, sql, type SQL } from 'drizzle-orm';
import Papa from 'papaparse';
import { heard } from '../../core/boundary/index.ts';
import {
  keyWords,
  namedInKey,
  namesIn,
  planImport,
  readHead,
  writtenCell,
  type Cells,
  type Import,
  type TableDefinition,
} from '../../core/tables/index.ts';
import type { Column } from '../../core/forms/index.ts';
import type { CalledKind, NamedKind } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Reader } from '../db/database.ts';
import { referenceRow, referenceTable } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { namesFor } from '../people/names.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { mostRows, write } from './commands.ts';
import { standingRows } from './standing.ts';
import { keepsRows, notTheirs } from './whose.ts';

/** What a sheet would do to a table. */
export interface SheetRead {
  plan: Import;
  /** What a row is called, by its key; of the first hundred that change. */
  called: (key: string) => string;
  /** Columns of the sheet that the table has not, and of the table that the sheet has not. */
  ignored: string[];
  kept: string[];
}

const invalid = (sentence: string) => refuse('invalid', sentence, [{ field: 'sheet', sentence }]);

/** What putting a sheet (CSV, RFC 4180, whatever parts its cells) into a table would do; nothing is changed. */
export async function readSheet(viewer: Viewer, input: { table: string; text: string }): Promise<Result<SheetRead>> {
  const [row] = isId(input.table)
    ? await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, input.table))
    : [];
  if (!row) return notFound('This table');
  return (await notTheirs(db(), viewer, row.definition)) ?? planned(db(), input, row.definition);
}

/** Puts a sheet into a table: all that can be taken of it, as `readSheet` says; the rest is left out. */
export async function importSheet(
  viewer: Viewer,
  input: { table: string; text: string },
): Promise<Result<{ added: number; changed: number; refused: Import['refused'] }>> {
  if (!isId(input.table)) return notFound('This table');
  return db().transaction(async (tx): Promise<Result<{ added: number; changed: number; refused: Import['refused'] }>> => {
    const [row] = await tx
      .select({ definition: referenceTable.definition })
      .from(referenceTable)
      .where(eq(referenceTable.id, input.table))
      .for('no key update');
    if (!row) return notFound('This table');
    const notSo = await notTheirs(tx, viewer, row.definition);
    if (notSo) return notSo;
    const read = await planned(tx, input, row.definition);
    if (!read.ok) return read;
    const { adds, changes, refused } = read.plan;
    if (adds.length + changes.length === 0) return invalid('Nothing of it can be put in: see what is said of each line.');
    const off = await offAmong(
      tx,
      input.table,
      adds.map((a) => a.key),
    );
    await write(tx, viewer.id, input.table, row.definition, [
      ...adds.map(({ key, cells }) => ({ key, cells, was: off.get(key), back: off.has(key) })),
      ...changes.map(({ key, cells, was }) => ({ key, cells, was })),
    ]);
    await record(tx, {
      actor: viewer.id,
      action: 'import',
      object: 'table',
      objectId: input.table,
      detail: { added: adds.length, changed: changes.length, refused: refused.length },
    });
    return { ok: true, added: adds.length, changed: changes.length, refused };
  });
}

/** What stands in the rows among these that were taken off. */
export async function offAmong(tx: Reader, table: string, keys: string[]): Promise<Map<string, Cells>> {
  const rows = await tx
    .select({ key: referenceRow.key, cells: referenceRow.cells })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, table), sql`${referenceRow.key} = any(${sql.param(keys)}::text[])`));
  return new Map(rows.map((r) => [r.key, r.cells]));
}

/** What parts the cells of a sheet: the sign by which its first line names most columns. */
function delimiterOf(text: string, { columns }: TableDefinition): string {
  const labels = new Set(columns.map((c) => c.label.trim().toLowerCase()));
  const known = (delimiter: string) =>
    (Papa.parse<string[]>(text, { delimiter, preview: 1 }).data[0] ?? []).filter((h) => labels.has(h.trim().toLowerCase())).length;
  return [',', ';', '\t'].reduce((best, sign) => (known(sign) > known(best) ? sign : best));
}

async function planned(tx: Reader, { table, text }: { table: string; text: string }, definition: TableDefinition): Promise<Result<SheetRead>> {
  const whole = text.replace(/^\uFEFF/, '');
  const parsed = Papa.parse<string[]>(whole, { delimiter: delimiterOf(whole, definition), skipEmptyLines: 'greedy', preview: mostRows + 2 });
  const [head, ...lines] = parsed.data;
  if (!head) return invalid('There is nothing in it yet. Paste cells from a spreadsheet with the names of the columns above them, or choose a file.');
  if (lines.length > mostRows) return invalid(`It has more than ${mostRows.toLocaleString('en')} lines; a table holds at most so many.`);
  const broken = parsed.errors.find((e) => e.type === 'Quotes');
  if (broken) return invalid(`Line ${(broken.row ?? 0) + 1} has a quotation mark that is not closed.`);
  const read = readHead(definition, head);
  if (!read.ok) return invalid(read.sentence);
  const { columns } = read;
  const ids = await called(tx, namesIn(columns, lines));
  const there = await standingRows(tx, table);
  const plan = planImport(definition, columns, lines, there, (kind, name) => ids.get(`${kind} ${name}`)?.id);
  if (there.size + plan.adds.length > mostRows) return invalid(`With it the table would have more than ${mostRows.toLocaleString('en')} rows.`);
  const names = await namesFor(
    tx,
    plan.changes.slice(0, 100).flatMap((c) => namedInKey(definition, c.key)),
  );
  return {
    ok: true,
    plan,
    called: (key) => keyWords(definition, key, names.of),
    ignored: head.flatMap((h, i) => (columns[i] || h.trim() === '' ? [] : [heard(h.trim(), 60)])),
    kept: definition.columns.filter((c) => !columns.includes(c)).map((c) => c.label),
  };
}

const named: Record<CalledKind, { from: SQL; names: SQL[] }> = {
  person: { from: sql`person where active and`, names: [sql`lower(name)`, sql`lower(email)`, sql`id::text`] },
  group: { from: sql`access_group where not gone and`, names: [sql`lower(name)`] },
  team: { from: sql`team where`, names: [sql`lower(name)`] },
  location: { from: sql`location where`, names: [sql`lower(name)`] },
};

/** What is called so, by "kind name"; what several are called is nobody's name. */
export async function called(tx: Reader, wanted: { kind: NamedKind; name: string }[]): Promise<Map<string, { kind: NamedKind; id: string }>> {
  const found = new Map<string, { kind: NamedKind; id: string } | undefined>();
  for (const [kind, { from, names }] of Object.entries(named) as [keyof typeof named, (typeof named)[keyof typeof named]][]) {
    const asked = wanted.filter((w) => w.kind === kind).map((w) => w.name);
    if (asked.length === 0) continue;
    for (const name of names) {
      const { rows } = await tx.execute<{ id: string; name: string }>(
        sql`select id, ${name} as name from ${from} ${name} = any(${sql.param(asked)}::text[])`,
      );
      for (const row of rows) {
        const key = `${kind} ${row.name}`;
        found.set(key, found.has(key) && found.get(key)?.id !== row.id ? undefined : { kind, id: row.id });
      }
    }
  }
  return new Map([...found].flatMap(([key, one]) => (one ? [[key, one] as const] : [])));
}

/** A table as a sheet (CSV, RFC 4180) that can be read back; undefined where the viewer may not see it. */
export async function writtenSheet(viewer: Viewer, id: string): Promise<{ name: string; text: string } | undefined> {
  if (!isId(id)) return undefined;
  const [table] = await db().select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, id));
  if (!table || !(await keepsRows(db(), viewer, table.definition))) return undefined;
  const rows = await db()
    .select({ cells: referenceRow.cells })
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, id), sql`${referenceRow.retiredAt} is null`))
    .orderBy(referenceRow.key);
  const names = await namesFor(
    db(),
    rows.flatMap((r) => Object.values(r.cells)),
  );
  const { columns, name } = table.definition;
  const cell = (column: Column, cells: Cells): string => {
    const value = cells[column.id];
    const person = value !== null && typeof value === 'object' && 'person' in value ? names.people.get(value.person) : undefined;
    // Two may be called the same; nobody shares an address.
    return person?.email || writtenCell(column, value, names.of);
  };
  const lines = [columns.map((c) => c.label), ...rows.map((r) => columns.map((c) => cell(c, r.cells)))];
  return { name, text: `\uFEFF${Papa.unparse(lines, { escapeFormulae: true, newline: '\r\n' })}\r\n` };
}
