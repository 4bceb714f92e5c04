import { and, eq, inArray, isNotNull, isNull, ne, sql } from 'drizzle-orm';
import { blankTable, checkTable, keyWords, readRow, rowWords, settled, TableDefinition, type Cells } from '../../core/tables/index.ts';
import { own } from '../../core/boundary/index.ts';
import { sameValue, valueWords, type Value } from '../../core/values/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Tx } from '../db/database.ts';
import { referenceRow, referenceTable } from '../db/schema/index.ts';
import { existing } from '../people/existing.ts';
import { namesFor, type Names } from '../people/names.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { notAsked, notListed } from './lists.ts';
import { usesOf } from './uses.ts';
import { wantTableRead } from './want-reading.ts';
import { keepsRows, notTheirs } from './whose.ts';

/** More rows than this no table has. */
export const mostRows = 50_000;

/** Begins a reference table with one column. */
export async function createTable(viewer: Viewer, input: { name: string }): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep reference tables');
  const name = TableDefinition.shape.name.safeParse(input.name);
  if (!name.success) return invalid('name', name.error.issues[0]?.message ?? 'The table needs a name.');
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(referenceTable)
      .values({ name: name.data, definition: blankTable(name.data), changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: referenceTable.id });
    if (!made) return taken(name.data);
    await record(tx, { actor: viewer.id, action: 'create', object: 'table', objectId: made.id, detail: { name: name.data } });
    return { ok: true, id: made.id };
  });
}

/**
 * Changes what a table is: its name, columns, key. Its rows have to fit it as it then is, and what plans read of it has to stay;
 * nothing is changed by half.
 */
export async function changeTable(viewer: Viewer, input: { id: string; version: number; definition: unknown }): Promise<Result<{ version: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep reference tables');
  const parsed = TableDefinition.safeParse(input.definition);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    return invalid('definition', `Not saved: ${issue?.message ?? 'it does not fit'} (${issue?.path.join(' › ') ?? ''})`);
  }
  const [wrong] = checkTable(parsed.data);
  if (wrong !== undefined) return invalid('definition', `Not saved. ${wrong}`);
  return db().transaction(async (tx): Promise<Result<{ version: number }>> => {
    const now = await lockTable(tx, input.id);
    if (!now) return notFound('This table');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this table meanwhile. Nothing of theirs was overwritten; what you typed is still here.',
      );
    const definition = settled(now.definition, parsed.data);
    const [same] = await tx
      .select({ id: referenceTable.id })
      .from(referenceTable)
      .where(and(eq(sql`lower(${referenceTable.name})`, definition.name.toLowerCase()), ne(referenceTable.id, input.id)));
    if (same) return taken(definition.name);
    const refused =
      (await notListed(tx, definition)) ??
      (await notAsked(tx, input.id, definition)) ??
      (await lostUses(tx, input.id, now, definition)) ??
      (await rowsLeftOut(tx, input.id, now.offered, now.definition, definition));
    if (refused) return refused;
    const version = now.version + 1;
    await tx
      .update(referenceTable)
      .set({ name: definition.name, definition, version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(referenceTable.id, input.id));
    await record(tx, {
      actor: viewer.id,
      action: 'change',
      object: 'table',
      objectId: input.id,
      detail: { version, columns: definition.columns.map((c) => c.label), ...(definition.from && { read: true }) },
    });
    if (definition.from) await wantTableRead(tx, input.id, viewer.id);
    return { ok: true, version };
  });
}

const lockTable = async (tx: Tx, id: string) => {
  const [row] = await tx.select().from(referenceTable).where(eq(referenceTable.id, id)).for('no key update');
  return row;
};

/** What plans read of a table and would not find any more. */
async function lostUses(tx: Tx, id: string, now: { offered: boolean; definition: TableDefinition }, next: TableDefinition) {
  const same = (key: string[]) => key.length === next.key.length && key.every((k, i) => k === next.key[i]);
  const kindOf = (of: TableDefinition, column: string) => of.columns.find((c) => c.id === column)?.kind;
  if (now.offered && !(same(now.definition.key) && next.key.every((k) => kindOf(now.definition, k) === kindOf(next, k))))
    return invalid(
      'definition',
      'Not saved: requests and items name its rows by their key, so the key of this table stays what it is. Begin another table for another key.',
    );
  const lost = now.definition.columns.filter(
    (c) => kindOf(next, c.id) !== c.kind || (c.required && !next.columns.some((x) => x.id === c.id && x.required)),
  );
  if (lost.length === 0) return undefined;
  const uses = await usesOf(tx, id);
  for (const column of lost) {
    const by = uses.filter((u) => u.columns.includes(column.id));
    if (by.length === 0) continue;
    const names = by.map((u) => `“${u.name}”`);
    const readers = `${names.slice(0, 3).join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''}`;
    return invalid(
      'definition',
      kindOf(next, column.id) === column.kind
        ? `Not saved: “${column.label}” is read by ${readers} as what every row has, so it stays required.`
        : `Not saved: “${column.label}” is read by ${readers}. Take it out there first, and let the requests that began before come to their end.`,
    );
  }
  return undefined;
}

/** Rows that would not fit a table as it is to be, as a refusal; else each has the key and the words it then has. */
async function rowsLeftOut(tx: Tx, id: string, offered: boolean, before: TableDefinition, next: TableDefinition) {
  const rows = await tx
    .select({ key: referenceRow.key, cells: referenceRow.cells, words: referenceRow.words, retiredAt: referenceRow.retiredAt })
    .from(referenceRow)
    .where(eq(referenceRow.tableId, id))
    .orderBy(referenceRow.key);
  const wrong = new Map<string, { n: number; key: string }>();
  const keys = new Map<string, string>();
  const names = await namesFor(
    tx,
    rows.flatMap((r) => Object.values(r.cells)),
  );
  const called = (key: string) => keyWords(before, key, names.of);
  const moved: { from: string; to: string; words: string }[] = [];
  for (const row of rows) {
    const read = readRow(next, row.cells);
    // A row that was taken off before anybody could pick it need not fit; it keeps its key.
    // One that is read says at the next reading what it then has to.
    const isLeft = !read.ok && (next.from !== undefined || (row.retiredAt !== null && !offered));
    const key = read.ok ? read.key : row.key;
    if (!read.ok && !isLeft)
      for (const p of read.problems) wrong.set(p.sentence, { n: (wrong.get(p.sentence)?.n ?? 0) + 1, key: wrong.get(p.sentence)?.key ?? row.key });
    else if (keys.has(key))
      return invalid('definition', `Not saved: with this key the rows “${called(keys.get(key)!)}” and “${called(row.key)}” could not be told apart.`);
    else {
      keys.set(key, row.key);
      const words = read.ok ? wordsOf(next, read.cells, names) : row.words;
      if (key !== row.key || words !== row.words) moved.push({ from: row.key, to: key, words });
    }
  }
  const [first] = wrong;
  if (first)
    return invalid(
      'definition',
      `Not saved: ${first[1].n === 1 ? `the row “${called(first[1].key)}” does` : `${first[1].n} rows, “${called(first[1].key)}” among them, do`} not fit (${first[0].replace(/\.$/, '')}). Correct ${first[1].n === 1 ? 'it' : 'them'} first.`,
    );
  if (moved.length > 0) {
    // Two may change places: each goes by a name that no row has.
    const to = sql`jsonb_to_recordset(${JSON.stringify(moved)}::jsonb) as m("from" text, "to" text, words text)`;
    await tx.execute(sql`update reference_row r set key = '/' || m."from", words = m.words from ${to} where r.table_id = ${id} and r.key = m."from"`);
    await tx.execute(sql`update reference_row r set key = m."to" from ${to} where r.table_id = ${id} and r.key = '/' || m."from"`);
  }
  return undefined;
}

interface RowGiven {
  table: string;
  /** The row that is changed, and the version the change was made from; a new row has neither. */
  row?: { key: string; version: number } | undefined;
  cells: Record<string, Value>;
}

/** The list that a table is read from is read now, and not only when it is time. */
export async function askTableRead(viewer: Viewer, input: { table: string }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const table = await lockTable(tx, input.table);
    if (!table) return notFound('This table');
    if (!(await keepsRows(tx, viewer, table.definition))) return notAllowed('have this table read');
    if (!table.definition.from) return refuse('invalid', 'This table is kept by hand: there is nothing to read.');
    await wantTableRead(tx, input.table, viewer.id);
    return { ok: true };
  });
}

/** Adds a row, or changes one; a change of what tells it from others makes another row of it, and takes the one it was off. */
export async function saveRow(viewer: Viewer, input: RowGiven): Promise<Result<{ key: string; version: number }>> {
  return db().transaction(async (tx): Promise<Result<{ key: string; version: number }>> => {
    const table = await lockTable(tx, input.table);
    if (!table) return notFound('This table');
    const refused = await notTheirs(tx, viewer, table.definition);
    if (refused) return refused;
    const there = await existing(tx, Object.values(input.cells));
    const read = readRow(table.definition, input.cells, there.for(viewer.id));
    if (!read.ok)
      return refuse(
        'invalid',
        read.problems.length === 1 ? 'One cell needs another look.' : `${read.problems.length} cells need another look.`,
        read.problems.map((p) => ({ field: p.column, sentence: p.sentence })),
      );
    const was = input.row && (await rowNow(tx, input.table, input.row.key));
    if (input.row && !was) return notFound('This row');
    if (was && was.version !== input.row!.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this row meanwhile. Nothing of theirs was overwritten; what you typed is still here.',
      );
    const moves = read.key !== input.row?.key;
    const present = moves ? await rowNow(tx, input.table, read.key) : undefined;
    if (present && !present.retiredAt) {
      const field = table.definition.key[0] ?? '';
      const sentence = 'There is a row with this key already. Every row has a key of its own.';
      return refuse('taken', sentence, [{ field, sentence }]);
    }
    if (!present && !was && (await tx.$count(referenceRow, eq(referenceRow.tableId, input.table))) >= mostRows)
      return refuse('invalid', `A table holds at most ${mostRows.toLocaleString('en')} rows.`);
    const before = moves ? present : was;
    if (moves && was) await retire(tx, viewer.id, input.table, [input.row!.key]);
    await write(tx, viewer.id, input.table, table.definition, [
      { key: read.key, cells: read.cells, was: before?.cells, back: (before?.retiredAt ?? null) !== null },
    ]);
    await record(tx, {
      actor: viewer.id,
      action: before ? 'change-row' : 'add-row',
      object: 'table',
      objectId: input.table,
      detail: { key: read.key, ...(moves && was && { was: input.row!.key }) },
    });
    return { ok: true, key: read.key, version: (before?.version ?? 0) + 1 };
  });
}

const rowNow = async (tx: Tx, table: string, key: string) => {
  const [row] = await tx
    .select()
    .from(referenceRow)
    .where(and(eq(referenceRow.tableId, table), eq(referenceRow.key, key)));
  return row;
};

/** A row as it is to stand; `was` what stood in it, undefined where it is new; `back`: it had been taken off. */
export interface Written {
  key: string;
  cells: Cells;
  was?: Cells | undefined;
  back?: boolean;
}

/** Writes rows with what changed in them, however many, in two statements. `by`: who; null where they were read. */
export async function write(tx: Tx, by: string | null, tableId: string, definition: TableDefinition, rows: Written[]): Promise<void> {
  if (rows.length === 0) return;
  const names = await namesFor(
    tx,
    rows.flatMap((r) => Object.values(r.cells)),
  );
  const given = rows.map((r) => ({ key: r.key, cells: r.cells, words: wordsOf(definition, r.cells, names) }));
  await tx.execute(sql`
    insert into reference_row (table_id, key, cells, words)
    select ${tableId}::uuid, r.key, r.cells, r.words from jsonb_to_recordset(${JSON.stringify(given)}::jsonb) as r(key text, cells jsonb, words text)
    on conflict (table_id, key) do update
      set cells = excluded.cells, words = excluded.words, version = reference_row.version + 1, changed_at = now(), retired_at = null`);
  const changes = rows.flatMap((r) => [
    ...(r.was && !r.back ? [] : [{ key: r.key, columnId: null, was: null, now: true }]),
    ...definition.columns.flatMap((c) => {
      const [was, now] = [own(r.was, c.id) ?? null, own(r.cells, c.id) ?? null];
      return sameValue(was, now) ? [] : [{ key: r.key, columnId: c.id, was, now }];
    }),
  ]);
  await tell(tx, by, tableId, changes);
}

const tell = (tx: Tx, by: string | null, tableId: string, changes: { key: string; columnId: string | null; was: Value; now: Value }[]) =>
  tx.execute(sql`
    insert into reference_change (table_id, key, column_id, was, now, by)
    select ${tableId}::uuid, c.key, c."columnId", nullif(c.was, 'null'::jsonb), nullif(c.now, 'null'::jsonb), ${by}::uuid
    from rows from (jsonb_to_recordset(${JSON.stringify(changes)}::jsonb) as (key text, "columnId" text, was jsonb, now jsonb))
      with ordinality as c(key, "columnId", was, now, n) order by c.n`);

/** What a row is found by: its key in words, and on the next line all that stands in it. */
function wordsOf(definition: TableDefinition, cells: Cells, names: Names): string {
  const all = definition.columns.map((c) => valueWords(own(cells, c.id) ?? null, names.of, c.options)).filter(Boolean);
  return `${rowWords(definition, cells, names.of)}\n${all.join(' ')}`.toLowerCase().slice(0, 5000);
}

/** Rows that are there go, or rows that are off come back; gives those that did. */
async function turn(tx: Tx, by: string | null, tableId: string, keys: string[], off: boolean): Promise<string[]> {
  const turned = await tx
    .update(referenceRow)
    .set({ retiredAt: off ? new Date() : null, version: sql`${referenceRow.version} + 1`, changedAt: new Date() })
    .where(
      and(
        eq(referenceRow.tableId, tableId),
        inArray(referenceRow.key, keys),
        off ? isNull(referenceRow.retiredAt) : isNotNull(referenceRow.retiredAt),
      ),
    )
    .returning({ key: referenceRow.key });
  const [was, now] = off ? [true, null] : [null, true];
  await tell(
    tx,
    by,
    tableId,
    turned.map(({ key }) => ({ key, columnId: null, was, now })),
  );
  return turned.map((r) => r.key);
}
/** Takes rows off as part of what goes on already; gives those that were there. */
export const retire = (tx: Tx, by: string | null, tableId: string, keys: string[]) => turn(tx, by, tableId, keys, true);
/** Brings rows back as part of what goes on already; gives those that were off. */
export const bringBack = (tx: Tx, by: string | null, tableId: string, keys: string[]) => turn(tx, by, tableId, keys, false);

/** Takes rows off a table: they are offered no more, and stay readable for what has picked them. */
export const takeRowsOff = (viewer: Viewer, input: { table: string; keys: string[] }) =>
  both(viewer, input.table, 'take-rows-off', (tx) => retire(tx, viewer.id, input.table, input.keys.slice(0, 1000)));

/** Brings rows back that were taken off. */
export const bringRowsBack = (viewer: Viewer, input: { table: string; keys: string[] }) =>
  both(viewer, input.table, 'bring-rows-back', (tx) => bringBack(tx, viewer.id, input.table, input.keys.slice(0, 1000)));

async function both(viewer: Viewer, table: string, action: string, act: (tx: Tx) => Promise<string[]>): Promise<Result<{ keys: string[] }>> {
  return db().transaction(async (tx): Promise<Result<{ keys: string[] }>> => {
    const now = await lockTable(tx, table);
    if (!now) return notFound('This table');
    const refused = await notTheirs(tx, viewer, now.definition);
    if (refused) return refused;
    const keys = await act(tx);
    if (keys.length > 0)
      await record(tx, { actor: viewer.id, action, object: 'table', objectId: table, detail: { keys: keys.slice(0, 20), rows: keys.length } });
    return { ok: true, keys };
  });
}

const invalid = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);
const taken = (name: string) =>
  refuse('taken', `There is a table called “${name}” already.`, [
    { field: 'name', sentence: `There is a table called “${name}” already. Choose another name.` },
  ]);
