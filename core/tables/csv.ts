import { own, setOwn, typed as cleaned } from '../boundary/index.ts';
import { hasOptions, type Column } from '../forms/index.ts';
import {
  digitsOf,
  formattedSource,
  isEmpty,
  isFormattedText,
  isNumber,
  typedAs,
  sameValue,
  valueWords,
  type NamedKind,
  type Value,
  type ValueNames,
} from '../values/index.ts';
import { readRow, type Cells, type TableDefinition, type WrongCell } from './table.ts';

/** The kinds of column whose cells name something kept elsewhere. */
const named: Partial<Record<Column['kind'], NamedKind>> = { person: 'person', group: 'group', team: 'team', location: 'location' };
/** What a column's cells name, where they name something. */
export const namedKind = (kind: Column['kind']): NamedKind | undefined => named[kind];

const yes = new Set(['yes', 'y', 'true', '1', 'x']);
const no = new Set(['no', 'n', 'false', '0']);

/** Which columns a sheet of cells has, by its first line; or why it cannot be told. Names count without their capitals, and a name of ours may be the column's key. */
export function readHead(
  table: TableDefinition,
  head: readonly string[],
): { ok: true; columns: (Column | undefined)[] } | { ok: false; sentence: string } {
  const names = head.map((h) => cleaned(h).trim().toLowerCase());
  const columns = names.map((name) => table.columns.find((c) => c.label.trim().toLowerCase() === name || c.id.toLowerCase() === name));
  const twice = columns.find((c, i) => c && columns.indexOf(c) < i);
  if (twice) return { ok: false, sentence: `Two columns of the file are called “${twice.label}”.` };
  const missing = table.columns.filter((c) => table.key.includes(c.id) && !columns.includes(c));
  if (missing.length > 0)
    return {
      ok: false,
      sentence: `The first line has to name the columns; ${missing.map((c) => `“${c.label}”`).join(' and ')} ${missing.length === 1 ? 'is' : 'are'} not among them, and without ${missing.length === 1 ? 'it' : 'them'} no row can be told from another.`,
    };
  return { ok: true, columns };
}

/** The words that a sheet names things by, each once, for whoever looks up what they are called. */
export function namesIn(columns: readonly (Column | undefined)[], lines: readonly (readonly string[])[]): { kind: NamedKind; name: string }[] {
  const found = new Map<string, { kind: NamedKind; name: string }>();
  columns.forEach((c, at) => {
    const kind = c && namedKind(c.kind);
    if (!kind) return;
    for (const line of lines) {
      const name = cleaned(line[at] ?? '')
        .trim()
        .toLowerCase();
      if (name) found.set(`${kind} ${name}`, { kind, name });
    }
  });
  return [...found.values()];
}

/** What a cell of a sheet means; a sentence where it means nothing. `idOf` knows what is called so. */
export function readCell(
  column: Column,
  raw: string,
  idOf: (kind: NamedKind, name: string) => string | undefined,
): { value: Value } | { sentence: string } {
  const text = cleaned(raw).trim();
  if (text === '') return { value: null };
  const says = (sentence: string) => ({ sentence: `${column.label}: “${text.slice(0, 60)}” ${sentence}` });
  const kind = namedKind(column.kind);
  if (kind) {
    const id = idOf(kind, text.toLowerCase());
    return id === undefined ? says('is not known, or not by this name alone.') : { value: { [kind]: id } as unknown as Value };
  }
  if (column.kind === 'yesNo') {
    const word = text.toLowerCase();
    return yes.has(word) ? { value: true } : no.has(word) ? { value: false } : says('is neither yes nor no.');
  }
  if (hasOptions(column.kind)) {
    const option = (column.options ?? []).find((o) => o.label.trim().toLowerCase() === text.toLowerCase() || o.value === text);
    return option ? { value: option.value } : says('is none of the choices.');
  }
  if (column.kind === 'number' || column.kind === 'money') {
    // A comma is taken for a decimal one where it can be nothing else.
    if (/^[^,]*\d,\d{3}(\D|$)/.test(text) || /[.,].*[.,]/.test(text)) return says('can be read in two ways. Write 1250.5.');
    // A sum without its currency is one in that of its column.
    const sum = column.kind === 'money' && column.unit !== undefined && /^-?[\d.,]+$/.test(text) ? `${text} ${column.unit}` : text;
    const value = typedAs(sum.replace(',', '.'), column.kind);
    return value === undefined ? says(column.kind === 'number' ? 'is not a number.' : 'is not a sum. Write 12.50 EUR.') : { value };
  }
  if (column.kind === 'formatted') {
    const value = typedAs(text, 'formatted');
    return value === undefined ? says('is too long for a formatted text.') : { value };
  }
  if (column.kind === 'time') {
    const value = typedAs(text, 'time');
    return value === undefined ? says('is not a time of day. Write 09:30.') : { value };
  }
  if (column.kind === 'date') {
    const value = typedAs(text, 'date');
    return value === undefined ? says('is not a day. Write 2026-03-02.') : { value };
  }
  return { value: text };
}

/** A cell as a sheet has it: what `readCell` reads back as the same. */
export function writtenCell(column: Column, cell: Value | undefined, names: ValueNames): string {
  if (cell === undefined || isEmpty(cell)) return '';
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no';
  if (isNumber(cell)) return digitsOf(cell);
  if (typeof cell === 'object' && 'amount' in cell) return `${cell.amount} ${cell.currency}`;
  if (isFormattedText(cell)) return formattedSource(cell);
  if (column.kind === 'date') return String(cell);
  return valueWords(cell, names, column.options);
}

/** What putting a sheet into a table would do, row by row. */
export interface Import {
  adds: { line: number; key: string; cells: Cells }[];
  changes: { line: number; key: string; cells: Cells; was: Cells; columns: string[] }[];
  same: number;
  refused: { line: number; problems: WrongCell[] }[];
  /** The keys of all rows that it has, and that can be taken. */
  keys: ReadonlySet<string>;
}

/**
 * Holds the lines of a sheet against a table: what would be added, changed, is the same, or cannot be taken and why. A column
 * that the sheet does not have stays as it is. `there` are the rows of the table by key; `first` is the number of the first line
 * as its reader counts. What `idOf` gives is there to be named. Every line stands for itself: one that is refused keeps no other from going in.
 */
export function planImport(
  table: TableDefinition,
  columns: readonly (Column | undefined)[],
  lines: readonly (readonly string[])[],
  there: ReadonlyMap<string, Cells>,
  idOf: (kind: NamedKind, name: string) => string | undefined,
  first = 2,
): Import {
  const seen = new Map<string, number>();
  const plan = { adds: [], changes: [], same: 0, refused: [] } as Omit<Import, 'keys'>;
  lines.forEach((line, i) => {
    const number = first + i;
    if (line.every((cell) => cell.trim() === '')) return;
    const problems: WrongCell[] = [];
    const given: Record<string, Value> = {};
    columns.forEach((column, at) => {
      if (!column) return;
      const read = readCell(column, line[at] ?? '', idOf);
      if ('sentence' in read) problems.push({ column: column.id, sentence: read.sentence });
      else setOwn(given, column.id, read.value);
    });
    if (problems.length > 0) return void plan.refused.push({ line: number, problems });
    // Its key is known by what the sheet says; the row it stands for fills in what the sheet does not have.
    const alone = readRow({ ...table, columns: table.columns.filter((c) => table.key.includes(c.id)) }, given);
    const was = alone.ok ? there.get(alone.key) : undefined;
    const whole = readRow(table, { ...was, ...given });
    if (!whole.ok) return void plan.refused.push({ line: number, problems: whole.problems });
    const before = seen.get(whole.key);
    if (before !== undefined)
      return void plan.refused.push({
        line: number,
        problems: [{ column: table.key[0] ?? '', sentence: `This is the same row as in line ${before}.` }],
      });
    seen.set(whole.key, number);
    if (!was) return void plan.adds.push({ line: number, key: whole.key, cells: whole.cells });
    const changed = table.columns.map((c) => c.id).filter((id) => !sameValue(own(was, id), own(whole.cells, id)));
    if (changed.length === 0) plan.same++;
    else plan.changes.push({ line: number, key: whole.key, cells: whole.cells, was, columns: changed });
  });
  return { ...plan, keys: new Set(seen.keys()) };
}

/** How many lines of each kind a preview names. */
const namedLines = 100;

/** What a plan is told by: how many rows, and the first lines of those that change and of those that cannot be taken. */
export interface ImportPreview {
  adds: number;
  same: number;
  changes: { many: number; first: { line: number; called: string; columns: string[] }[] };
  refused: { many: number; first: Import['refused'] };
}
/** The same plan without its cells, however long the sheet is; `called`: what a row is called. */
export const previewOf = ({ adds, same, changes, refused }: Import, called: (key: string) => string): ImportPreview => ({
  adds: adds.length,
  same,
  changes: { many: changes.length, first: changes.slice(0, namedLines).map(({ line, key, columns }) => ({ line, called: called(key), columns })) },
  refused: { many: refused.length, first: refused.slice(0, namedLines) },
});
