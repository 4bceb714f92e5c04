import { own, setOwn } from '../boundary/index.ts';
import type { Exists } from '../forms/index.ts';
import { sameValue, type Value } from '../values/index.ts';
import { readRow, type Cells, type TableDefinition } from './table.ts';

/** One change of a table: of a cell, or with `column` null of a row, which was put in or brought back (`now` true), or taken off (null). */
export interface Change {
  key: string;
  column: string | null;
  was: Value;
  now: Value;
}

/** Rows that stand in a table after these changes, from the first on, by their keys; columns that are gone are left out. */
export function standingAfter(changes: Iterable<Change>, { columns }: Pick<TableDefinition, 'columns'>): Map<string, Cells> {
  const known = new Set(columns.map((c) => c.id));
  const rows = new Map<string, { there: boolean; cells: Cells }>();
  for (const { key, column, now } of changes) {
    const row = rows.get(key) ?? { there: false, cells: {} };
    rows.set(key, row);
    if (column === null) row.there = now !== null;
    else if (known.has(column)) setOwn(row.cells, column, now as Cells[string]);
  }
  return new Map(
    [...rows].flatMap(([key, row]) =>
      row.there ? [[key, Object.fromEntries(Object.entries(row.cells).filter(([, v]) => v !== null)) as Cells] as const] : [],
    ),
  );
}

/** A row as it stands now. */
export interface StandingNow {
  cells: Cells;
  off: boolean;
}

/** What taking one act back comes to. */
export interface TakenBack {
  /** Rows whose cells become what they were. */
  written: { key: string; cells: Cells; was: Cells }[];
  /** Rows that were put in by it, and go. */
  off: string[];
  /** Rows that were taken off by it, and come back. */
  back: string[];
}

/**
 * What it takes to undo the changes of one act, or why that cannot be: something of it was changed since, or what stood there before does
 * not fit the table any more. `now`: the rows as they stand; `called`: what a row is called.
 */
export function takeBack(
  table: TableDefinition,
  act: readonly Change[],
  now: ReadonlyMap<string, StandingNow>,
  exists?: Exists,
  called: (key: string) => string = (key) => key,
): TakenBack | { sentence: string } {
  const byKey = new Map<string, Change[]>();
  for (const c of act) byKey.set(c.key, [...(byKey.get(c.key) ?? []), c]);
  const found: TakenBack = { written: [], off: [], back: [] };
  for (const [key, changes] of byKey) {
    const row = now.get(key);
    const since = { sentence: `Row “${called(key)}” has been changed since.` };
    if (!row) return { sentence: `Row “${called(key)}” is not here any more.` };
    const marks = changes.filter((c) => c.column === null);
    const cells = changes.filter((c): c is Change & { column: string } => c.column !== null && table.columns.some((x) => x.id === c.column));
    const stands = (c: { column: string; now: Value }) => sameValue(own(row.cells, c.column) ?? null, c.now);
    const putIn = marks.some((m) => m.now !== null);
    const takenOff = marks.some((m) => m.now === null);
    if (putIn && takenOff) return { sentence: `Row “${called(key)}” was both put in and taken off by it.` };
    if (!cells.every(stands)) return since;
    if (putIn) {
      if (row.off) return since;
      found.off.push(key);
      continue;
    }
    if (takenOff) {
      if (!row.off) return since;
      found.back.push(key);
      continue;
    }
    if (row.off) return since;
    if (cells.length === 0) continue;
    const before = { ...row.cells };
    for (const c of cells) {
      if (c.was === null) delete before[c.column];
      else setOwn(before, c.column, c.was as Cells[string]);
    }
    const read = readRow(table, before, exists);
    if (!read.ok) return { sentence: `What stood in row “${called(key)}” does not fit any more: ${read.problems[0]!.sentence}` };
    if (read.key !== key) return { sentence: `Row “${called(key)}” would have another key.` };
    found.written.push({ key, cells: read.cells, was: row.cells });
  }
  return found;
}
