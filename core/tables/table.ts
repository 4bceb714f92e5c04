import { z } from 'zod';
import { line, own, setOwn } from '../boundary/index.ts';
import { askingNamed, checkAsking, RowAsking } from './asking.ts';
import { Duration, secondsOf } from '../calendar/index.ts';
import { Column, notAnAnswer, rowNames, tidiedLine, wrongCells, type Exists } from '../forms/index.ts';
import {
  Cell,
  Id,
  idFrom,
  isEmpty,
  Key,
  longestKey,
  partNames,
  plainOf,
  Retired,
  valueWords,
  WereCalled,
  type Entry,
  type ValueNames,
} from '../values/index.ts';

/** What stands in a row, by the keys of its columns. */
export type Cells = Entry['entry'];

/** A column of a reference table. It is named `form.machine.<id>` where a row is used, so that no column is called as a part of a value. */
const TableColumn = Column.refine((c) => !partNames.has(c.id), { path: ['id'], error: 'This word names a part of every sum of money.' });

/** The kinds of column that a key can be made of: what is told apart by its text. */
const keyKinds: ReadonlySet<Column['kind']> = new Set(['text', 'choice', 'number', 'date', 'person', 'group', 'team', 'location', 'address']);

/**
 * A list of a registered system that the rows of a table are read from, and how often. Each column says which of the list's it reads.
 */
export const TableFrom = z.object({
  system: Key,
  list: Id,
  columns: z.array(z.object({ column: Id, of: Id })).max(20),
  /** From the beginning of one reading to that of the next (ISO 8601). */
  every: Duration.refine((d) => secondsOf(d) >= 60, 'A minute at least.').refine((d) => secondsOf(d) <= 30 * 86_400, '30 days at most.'),
});
export type TableFrom = z.infer<typeof TableFrom>;

/**
 * A reference table: facts that others keep, read by plans when they are used. Its key is one or more of its columns; two rows
 * never have the same.
 */
export const TableDefinition = z.object({
  name: line(80).trim().min(1, 'The table needs a name.'),
  purpose: line(300),
  columns: z.array(TableColumn).max(20),
  key: z.array(Id).max(5),
  /** The columns of dates, the first and the last day on which a row is offered and found; an empty cell sets no bound. Days are those of UTC. */
  validity: z.object({ from: Id.optional(), until: Id.optional() }).optional(),
  /** The group whose people keep its rows, designers or not. */
  owners: z.object({ group: Key }).optional(),
  /** Where its rows come from, if nobody keeps them by hand. */
  from: TableFrom.optional(),
  /** What follows when a row that is read says something. */
  asks: RowAsking.optional(),
  retired: Retired.optional(),
  wereCalled: WereCalled.optional(),
});
export type TableDefinition = z.infer<typeof TableDefinition>;

/** A table with a name and one column, which is its key. */
export const blankTable = (name: string): TableDefinition => ({
  name,
  purpose: '',
  columns: [{ id: 'name', kind: 'text', label: 'Name', required: true }],
  key: ['name'],
});

/** A table with its new columns named for their labels, as expressions will have them (`form.machine.price`). */
export function named(before: TableDefinition, next: TableDefinition): TableDefinition {
  const there = new Set(before.columns.map((c) => c.id));
  const used = new Set([...there, ...(before.retired ?? []), ...partNames, ...rowNames]);
  const ids = new Map<string, string>();
  const columns = next.columns.map((c) => {
    if (there.has(c.id)) return c;
    const id = idFrom(c.label, used);
    used.add(id);
    ids.set(c.id, id);
    return { ...c, id };
  });
  const { from, until } = next.validity ?? {};
  const column = (id: string | undefined) => (id === undefined ? undefined : (ids.get(id) ?? id));
  return {
    ...next,
    columns,
    key: next.key.map((id) => ids.get(id) ?? id),
    ...(next.asks && { asks: askingNamed(next.asks, ids) }),
    ...(next.from && { from: { ...next.from, columns: next.from.columns.map((r) => ({ ...r, column: ids.get(r.column) ?? r.column })) } }),
    ...(next.validity && { validity: { from: column(from), until: column(until) } }),
  };
}

/** A table as it is kept after a change: what the columns were called that went is remembered, and not given again. */
export function settled(before: TableDefinition, { retired: _, wereCalled: __, ...next }: TableDefinition): TableDefinition {
  const gone = before.columns.filter((c) => !next.columns.some((x) => x.id === c.id));
  const retired = [...new Set([...(before.retired ?? []), ...gone.map((c) => c.id)])];
  const wereCalled = [...(before.wereCalled ?? []), ...gone.map((c) => ({ id: c.id, name: c.label }))];
  return { ...next, ...(retired.length > 0 && { retired, wereCalled }) };
}

/** What is wrong with a table, so that no row can be kept in it. */
export function checkTable({ columns, key, validity, from, asks }: TableDefinition): string[] {
  const found: string[] = checkAsking({ columns, from, asks });
  const of = (id: string) => columns.find((c) => c.id === id);
  columns.forEach((c, i) => {
    const label = c.label.trim().toLowerCase();
    if (!label) found.push(`Column ${i + 1} has no name.`);
    else if (columns.findIndex((x) => x.label.trim().toLowerCase() === label) < i) found.push(`Two columns are called “${c.label}”.`);
    if (columns.findIndex((x) => x.id === c.id) < i) found.push(`“${c.label}” has the key of another column.`);
    if (c.kind === 'choice' && (c.options ?? []).filter((o) => o.label.trim()).length < 2) found.push(`“${c.label}” offers fewer than two choices.`);
    if (c.min !== undefined && c.max !== undefined && c.min > c.max) found.push(`“${c.label}” takes nothing: its least is more than its most.`);
  });
  for (const [id, which] of [
    [validity?.from, 'first'],
    [validity?.until, 'last'],
  ] as const) {
    if (id === undefined) continue;
    const column = of(id);
    if (!column) found.push(`The column of the ${which} day on which a row is offered is not there any more.`);
    else if (column.kind !== 'date') found.push(`“${column.label}” is no date, so it cannot be the ${which} day on which a row is offered.`);
  }
  if (validity?.from !== undefined && validity.from === validity.until)
    found.push('The first and the last day on which a row is offered are one column: choose two, or one of them only.');
  if (from)
    for (const c of columns)
      if (!from.columns.some((r) => r.column === c.id))
        found.push(
          `“${c.label}” is read from nowhere, and nobody types into a table that is read: say which column of the list it is, or take it off.`,
        );
  if (key.length === 0) found.push('Nothing tells its rows apart: choose the columns that are its key.');
  for (const id of key) {
    const column = of(id);
    if (!column) found.push('Its key names a column that is not there.');
    else if (!keyKinds.has(column.kind)) found.push(`“${column.label}” cannot be part of the key: choose what is written, picked or counted.`);
    else if (!column.required) found.push(`“${column.label}” is part of the key, so every row must have it: make it required.`);
  }
  return found;
}

/** The key of a row: the texts of its key columns, parted by bars; undefined where one of them is empty. */
export function keyOf({ key }: Pick<TableDefinition, 'key'>, cells: Cells): string | undefined {
  const texts = key.map((id) => {
    const cell = own(cells, id) ?? null;
    return isEmpty(cell) ? undefined : String(plainOf(cell)).normalize('NFC').replace(/[\\|]/g, '\\$&');
  });
  return texts.length === 0 || texts.includes(undefined) ? undefined : texts.join('|');
}

/** What a row is called: its key columns in words. */
export const rowWords = ({ key, columns }: Pick<TableDefinition, 'key' | 'columns'>, cells: Cells, names: ValueNames): string =>
  key
    .map((id) => valueWords(own(cells, id) ?? null, names, columns.find((c) => c.id === id)?.options))
    .filter(Boolean)
    .join(', ');

/** A cell that is not as its column wants it. */
export interface WrongCell {
  column: string;
  sentence: string;
}

/** A row as it would be kept, with its key; or every cell of it that is wrong. Whether its key is free is not known here. */
export function readRow(
  table: TableDefinition,
  given: Readonly<Record<string, unknown>>,
  exists?: Exists,
): { ok: true; key: string; cells: Cells } | { ok: false; problems: WrongCell[] } {
  const read: Cells = {};
  const problems: WrongCell[] = [];
  for (const column of table.columns) {
    const raw = own(given, column.id) ?? null;
    const cell = Cell.safeParse(raw);
    if (cell.success) setOwn(read, column.id, cell.data);
    else problems.push({ column: column.id, sentence: notAnAnswer(column, raw) });
  }
  const { entry: cells } = tidiedLine(table.columns, { entry: read });
  problems.push(...wrongCells(table.columns, { entry: cells }, exists).filter((p) => !problems.some((q) => q.column === p.column)));
  const { from, until } = table.validity ?? {};
  const [first, last] = [from, until].map((id) => (id === undefined ? null : (own(cells, id) ?? null)));
  if (until !== undefined && typeof first === 'string' && typeof last === 'string' && last < first)
    problems.push({ column: until, sentence: 'The last day is before the first.' });
  if (problems.length > 0) return { ok: false, problems };
  const key = keyOf(table, cells);
  const [column = ''] = table.key;
  if (key === undefined) return { ok: false, problems: [{ column, sentence: 'Nothing tells this row from others.' }] };
  if (key.length <= longestKey) return { ok: true, key, cells };
  const sentence = `What tells this row from others has ${key.length} characters; at most ${longestKey} fit.`;
  return { ok: false, problems: [{ column, sentence }] };
}
