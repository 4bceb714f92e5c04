import type { NamedKind } from '../values/index.ts';
import { namedKind, planImport, type Import } from './csv.ts';
import type { Cells, TableDefinition, TableFrom } from './table.ts';

/** What a reading of a list does to the table that is read from it. */
export interface Reading {
  plan: Import;
  /** The keys of rows that stand in the table and that the list has not any more. */
  gone: string[];
  /** Cells that name what nobody knows here and that may be empty: they are, and the row is taken. */
  empty: string[];
}

/**
 * Holds what a system lists against the table that is read from it, as a sheet is. `named` are the names of the list's columns, `lines`
 * its rows, a text a column; `whole`: nothing of the list was left out. Where a row cannot be taken nothing is taken off: the row that seems
 * to be gone may be that one.
 */
export function planReading(
  table: TableDefinition & { from: TableFrom },
  named: readonly string[],
  { lines, whole }: { lines: readonly (readonly string[])[]; whole: boolean },
  there: ReadonlyMap<string, Cells>,
  idOf: (kind: NamedKind, name: string) => string | undefined,
): { ok: true; reading: Reading } | { ok: false; sentence: string } {
  const read = table.from.columns.flatMap(({ column, of }) => {
    const found = table.columns.find((c) => c.id === column);
    return found ? [{ column: found, at: named.indexOf(of) }] : [];
  });
  const missing = read.find((r) => r.at < 0);
  if (missing) return { ok: false, sentence: `The list has no column any more that “${missing.column.label}” is read from.` };
  const empty: string[] = [];
  const cellOf = ({ column, at }: (typeof read)[number], line: readonly string[], n: number): string => {
    const text = line[at] ?? '';
    const kind = namedKind(column.kind);
    // Whoever left is still named elsewhere; that keeps no row from being read.
    if (!kind || column.required || text.trim() === '' || idOf(kind, text.trim().toLowerCase()) !== undefined) return text;
    empty.push(`Row ${n + 1}: ${column.label}: “${text.slice(0, 60)}” is not known here; the cell is empty.`);
    return '';
  };
  const cells = lines.map((line, n) => read.map((r) => cellOf(r, line, n)));
  const plan = planImport(
    table,
    read.map((r) => r.column),
    cells,
    there,
    idOf,
    1,
  );
  const gone = whole && plan.refused.length === 0 ? [...there.keys()].filter((key) => !plan.keys.has(key)) : [];
  return { ok: true, reading: { plan, gone, empty } };
}

/** The columns of the table that a list is read into, and its cells in their order: what looks up names needs. */
export const readColumns = (table: TableDefinition & { from: TableFrom }, named: readonly string[]) =>
  named.map((name) => {
    const of = table.from.columns.find((r) => r.of === name);
    return table.columns.find((c) => c.id === of?.column);
  });
