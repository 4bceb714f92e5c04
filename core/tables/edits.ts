import { own, setOwn } from '../boundary/index.ts';
import { sameValue, type NamedKind, type Value } from '../values/index.ts';
import { readCell } from './csv.ts';
import { keyOf, readRow, type Cells, type TableDefinition, type WrongCell } from './table.ts';

/** More rows than this are not changed in one go. */
export const mostEdits = 5000;

/** What somebody typed into cells of a row, by column. */
export interface RowEdit {
  /** By what whoever typed it knows the row, also one that is new. */
  id: string;
  /** The row it is typed into and the version of it that was read; a new row has neither. */
  row?: { key: string; version: number } | undefined;
  texts: Readonly<Record<string, string>>;
}

/** A row as it stands in a table. */
export interface StandingRow {
  cells: Cells;
  version: number;
  /** It was taken off, and may be brought back by its key. */
  off: boolean;
}

/** What typing into cells does to a table. */
export interface EditPlan {
  /** Rows as they are to stand; `from` is the key of a row that becomes this one, and is taken off where no other becomes it. */
  written: { id: string; key: string; cells: Cells; from?: string | undefined }[];
  /** Cells that cannot be taken; of a new row with one of them nothing is. */
  refused: { id: string; problems: WrongCell[] }[];
}

const meanwhile = 'Somebody else has changed this row meanwhile. Nothing of theirs was overwritten.';
const twice = 'There is a row with this key already. Every row has a key of its own.';

/**
 * Holds what was typed into cells against a table. A cell that cannot be taken keeps no other from going in, unless a new row needs
 * it. A row whose key cells are changed becomes another row; two may change places. `there` has the rows that the edits name by
 * their keys, before and after; `idOf` knows what is called so.
 */
export function planEdits(
  table: TableDefinition,
  edits: readonly RowEdit[],
  there: ReadonlyMap<string, StandingRow>,
  idOf: (kind: NamedKind, name: string) => string | undefined,
): EditPlan {
  const plan: EditPlan = { written: [], refused: [] };
  const read = edits.map((edit) => readEdit(table, edit, there, idOf));
  const refusedById = new Map<string, EditPlan['refused'][number]>();
  const refuse = (id: string, problems: WrongCell[]) => {
    if (problems.length === 0) return;
    const known = refusedById.get(id);
    if (known) return void known.problems.push(...problems);
    const first = { id, problems };
    refusedById.set(id, first);
    plan.refused.push(first);
  };
  for (const r of read) refuse(r.id, r.problems);
  let left = read.filter((r) => r.cells !== undefined && !r.same);
  // A row that may not move stays where it was, and so may stand in the way of another: until nothing is refused any more.
  for (;;) {
    const freed = new Set(left.flatMap((r) => (r.from !== undefined && r.from !== r.key ? [r.from] : [])));
    const given = new Set<string>();
    const bad = new Set(
      left.filter((r) => {
        const isOwn = r.from === r.key;
        const stands = there.get(r.key!);
        if (given.has(r.key!) || (!isOwn && stands && !stands.off && !freed.has(r.key!))) return true;
        given.add(r.key!);
        return false;
      }),
    );
    if (bad.size === 0) break;
    const { key: columns } = table;
    left = left.flatMap((r) => {
      if (!bad.has(r)) return [r];
      const typed = columns.filter((c) => own(r.edit.texts, c) !== undefined);
      refuse(r.id, [{ column: typed[0] ?? columns[0] ?? '', sentence: twice }]);
      // The rest of what was typed into it goes in, where the row stays what it was.
      const rest = r.from === undefined ? undefined : withoutColumns(r.edit, columns);
      const again = rest && Object.keys(rest.texts).length > 0 ? readEdit(table, rest, there, idOf) : undefined;
      return again?.cells && !again.same ? [again] : [];
    });
  }
  plan.written = left.map(({ id, key, cells, from }) => ({ id, key: key!, cells: cells!, from }));
  return plan;
}

const withoutColumns = (edit: RowEdit, columns: readonly string[]): RowEdit => ({
  ...edit,
  texts: Object.fromEntries(Object.entries(edit.texts).filter(([id]) => !columns.includes(id))),
});

interface ReadEdit {
  edit: RowEdit;
  id: string;
  problems: WrongCell[];
  /** The row with what can be taken; undefined where nothing can. */
  cells?: Cells;
  key?: string;
  from?: string;
  /** Nothing is changed by it. */
  same?: boolean;
}

function readEdit(
  table: TableDefinition,
  edit: RowEdit,
  there: ReadonlyMap<string, StandingRow>,
  idOf: (kind: NamedKind, name: string) => string | undefined,
): ReadEdit {
  const { id, row, texts } = edit;
  const problems: WrongCell[] = [];
  const was = row && there.get(row.key);
  const first = Object.keys(texts)[0] ?? '';
  if (row && (!was || was.off || was.version !== row.version)) return { edit, id, problems: [{ column: first, sentence: meanwhile }] };
  const given: Record<string, Value> = {};
  for (const column of table.columns) {
    const text = own(texts, column.id);
    if (text === undefined) continue;
    const cell = readCell(column, text, idOf);
    if ('sentence' in cell) problems.push({ column: column.id, sentence: cell.sentence });
    else setOwn(given, column.id, cell.value);
  }
  if (!was) {
    const whole = problems.length > 0 ? undefined : readRow(table, given);
    if (!whole?.ok) return { edit, id, problems: [...problems, ...(whole?.problems ?? [])] };
    return { edit, id, problems, cells: whole.cells, key: whole.key };
  }
  // What the row would not take is taken out of what was typed, and the rest is looked at again.
  const good = { ...given };
  for (;;) {
    const whole = readRow(table, { ...was.cells, ...good });
    if (whole.ok) {
      const same = table.columns.every((c) => sameValue(own(was.cells, c.id) ?? null, own(whole.cells, c.id) ?? null));
      return { edit, id, problems, cells: whole.cells, key: whole.key, from: row!.key, same };
    }
    const typed = whole.problems.filter((p) => Object.hasOwn(good, p.column));
    problems.push(...(typed.length > 0 ? typed : whole.problems));
    if (typed.length === 0) return { edit, id, problems };
    for (const p of typed) delete good[p.column];
  }
}

/** The keys that edits may lead to, so that whoever looks rows up knows which: of rows that are there and of those that they become. */
export function keysOfEdits(
  table: TableDefinition,
  edits: readonly RowEdit[],
  there: ReadonlyMap<string, StandingRow>,
  idOf: (kind: NamedKind, name: string) => string | undefined,
): string[] {
  const keys = new Set<string>();
  for (const { row, texts } of edits) {
    const cells: Cells = { ...(row && there.get(row.key)?.cells) };
    for (const column of table.columns) {
      const text = table.key.includes(column.id) ? own(texts, column.id) : undefined;
      const cell = text === undefined ? undefined : readCell(column, text, idOf);
      if (cell && 'value' in cell) setOwn(cells, column.id, cell.value as Cells[string]);
    }
    const key = keyOf(table, cells);
    if (key !== undefined) keys.add(key);
  }
  return [...keys];
}
