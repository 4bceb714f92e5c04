/**
 * What a grid knows of a table while somebody types into it: rows as they were read, what was typed over them and is not kept yet, what
 * was refused, and how to take it all back. Cells are texts; the server says what they mean.
 */
export interface Line {
  /** By what this grid knows the row, also before it has a key and after it has another. */
  id: string;
  /** The row as it is kept; undefined of one that is new, or was refused. */
  kept?: { key: string; version: number; texts: readonly string[] };
  texts: readonly string[];
  /** Why a cell was refused, by its place; until it is typed over. */
  wrong: Readonly<Record<number, string>>;
}

/** One act, that can be taken back: what cells said and say, rows that came and went. */
export interface Act {
  did: string;
  cells: readonly { id: string; col: number; was: string; now: string }[];
  added: readonly string[];
  removed: readonly Line[];
  /** The place that the first of the removed had in the order. */
  at?: number;
}

export interface GridState {
  lines: ReadonlyMap<string, Line>;
  /** The rows that are shown, in their order: as they were when it was last said what is shown and by what it is sorted. */
  order: readonly string[];
  done: readonly Act[];
  undone: readonly Act[];
  /** Rows by key that are to be taken off or brought back, in turn; not told to the server yet. */
  moves: readonly { off: boolean; ids: readonly string[] }[];
  /** Counts the rows that were added here. */
  fresh: number;
  columns: number;
}

/** A row as the server gives it. */
export interface Read {
  key: string;
  version: number;
  texts: readonly string[];
}

export const begin = (rows: readonly Read[], columns: number): GridState => {
  const lines = new Map<string, Line>(rows.map((kept) => [`k${kept.key}`, { id: `k${kept.key}`, kept, texts: kept.texts, wrong: {} }]));
  return { lines, order: [...lines.keys()], done: [], undone: [], moves: [], fresh: 0, columns };
};

/** What is shown and in which order: the rows that `shows` keeps, sorted by `by`; where that is undefined, as they stand by their keys. */
export function shown(
  state: GridState,
  shows: (line: Line) => boolean,
  by?: { col: number; down: boolean; compare: (a: string, b: string) => number },
): GridState {
  const all = [...state.lines.values()];
  const kept = all.filter((l) => l.kept && shows(l));
  const inOrder = by
    ? kept.toSorted((a, b) => {
        const [x, y] = [a.texts[by.col] ?? '', b.texts[by.col] ?? ''];
        // What is empty comes last, either way.
        if (x === '' || y === '') return x === y ? 0 : x === '' ? 1 : -1;
        return by.down ? by.compare(y, x) : by.compare(x, y);
      })
    : kept.toSorted((a, b) => (a.kept!.key < b.kept!.key ? -1 : 1));
  return { ...state, order: [...inOrder, ...all.filter((l) => !l.kept)].map((l) => l.id) };
}

/** Does an act, and remembers how to take it back; nothing where nothing is changed by it. */
function doing(state: GridState, act: Act, next: Partial<GridState> = {}): GridState {
  if (act.cells.length + act.added.length + act.removed.length === 0) return state;
  return { ...carried({ ...state, ...next }, act), done: [...state.done, act].slice(-200), undone: [] };
}

/** The state after an act. */
function carried(state: GridState, act: Act): GridState {
  const lines = new Map(state.lines);
  let order = state.order;
  for (const id of act.added) lines.set(id, { id, texts: Array.from({ length: state.columns }, () => ''), wrong: {} });
  if (act.added.length > 0) order = [...order, ...act.added];
  for (const { id, col, now } of act.cells) {
    const line = lines.get(id);
    if (!line) continue;
    const { [col]: _, ...wrong } = line.wrong;
    lines.set(id, { ...line, texts: line.texts.with(col, now), wrong });
  }
  const gone = new Set(act.removed.map((l) => l.id));
  for (const id of gone) lines.delete(id);
  const off = act.removed.filter((l) => l.kept).map((l) => l.id);
  return {
    ...state,
    lines,
    order: gone.size > 0 ? order.filter((id) => !gone.has(id)) : order,
    moves: off.length > 0 ? [...state.moves, { off: true, ids: off }] : state.moves,
  };
}

/** The state before an act. */
function reversed(state: GridState, act: Act): GridState {
  const back = act.removed.filter((l) => l.kept).map((l) => l.id);
  const lines = new Map(state.lines);
  for (const line of act.removed) lines.set(line.id, line);
  const restored = { ...state, lines, order: state.order.toSpliced(act.at ?? state.order.length, 0, ...act.removed.map((l) => l.id)) };
  const cells = act.cells.map(({ id, col, was, now }) => ({ id, col, was: now, now: was }));
  const added = act.added.flatMap((id) => state.lines.get(id) ?? []);
  const next = carried(restored, { did: act.did, cells, added: [], removed: added });
  return { ...next, moves: back.length > 0 ? [...next.moves, { off: false, ids: back }] : next.moves };
}

/** Texts into cells, by the place of their rows in the order; a place after the last is a row that is new. */
export function typed(state: GridState, given: readonly { row: number; col: number; text: string }[], did: string): GridState {
  const added: string[] = [];
  let { fresh } = state;
  const idAt = (row: number): string => {
    const id = state.order[row] ?? added[row - state.order.length];
    if (id !== undefined) return id;
    while (state.order.length + added.length <= row) added.push(`n${++fresh}`);
    return added[row - state.order.length]!;
  };
  const cells = given.flatMap(({ row, col, text }) => {
    if (col < 0 || col >= state.columns) return [];
    const there = state.order[row];
    if (there === undefined && text === '') return [];
    const id = idAt(row);
    const was = state.lines.get(id)?.texts[col] ?? '';
    return was === text ? [] : [{ id, col, was, now: text }];
  });
  return doing(state, { did, cells, added, removed: [] }, { fresh });
}

/** Rows taken off, by their places in the order. */
export const removed = (state: GridState, from: number, to: number): GridState => {
  const lines = state.order.slice(from, to + 1).flatMap((id) => state.lines.get(id) ?? []);
  return doing(state, {
    did: lines.length === 1 ? 'Take a row off' : `Take ${lines.length} rows off`,
    cells: [],
    added: [],
    removed: lines,
    at: from,
  });
};

export function undo(state: GridState): GridState {
  const act = state.done.at(-1);
  return act ? { ...reversed(state, act), done: state.done.slice(0, -1), undone: [...state.undone, act] } : state;
}
export function redo(state: GridState): GridState {
  const act = state.undone.at(-1);
  // What was added comes back as it is called, and what it says with it.
  return act ? { ...carried(state, act), done: [...state.done, act], undone: state.undone.slice(0, -1) } : state;
}

/** What the server is to be told of one row. */
export interface Pending {
  id: string;
  row?: { key: string; version: number };
  /** By the place of the column. */
  texts: Readonly<Record<number, string>>;
}

/** What was typed and is neither kept nor refused; of a row that is new, once `isWhole` says that it can stand. */
export function pending(state: GridState, isWhole: (texts: readonly string[]) => boolean, most = 500): Pending[] {
  const found: Pending[] = [];
  for (const { id, kept, texts, wrong } of state.lines.values()) {
    if (found.length >= most) break;
    if (texts === kept?.texts) continue;
    const changed = Object.fromEntries(texts.flatMap((t, col) => (t !== (kept?.texts[col] ?? '') && wrong[col] === undefined ? [[col, t]] : [])));
    if (Object.keys(changed).length === 0) continue;
    if (kept) found.push({ id, row: { key: kept.key, version: kept.version }, texts: changed });
    else if (Object.keys(wrong).length === 0 && isWhole(texts)) found.push({ id, texts: changed });
  }
  return found;
}

/** Rows that are new and not whole yet. */
export const unfinished = (state: GridState): Line[] => [...state.lines.values()].filter((l) => !l.kept && l.texts.some((t) => t !== ''));

/** What the server said of what it was told; what was typed since stays as it is. */
export function settled(
  state: GridState,
  sent: readonly Pending[],
  rows: readonly (Read & { id: string })[],
  refused: readonly { id: string; problems: readonly { col: number; sentence: string }[] }[],
): GridState {
  const lines = new Map(state.lines);
  const told = new Map(sent.map((s) => [s.id, s]));
  for (const row of rows) {
    const line = lines.get(row.id);
    if (!line) continue;
    const was = told.get(row.id)?.texts ?? {};
    // Where nothing was typed since, the cell says what is kept.
    const texts = line.texts.map((t, col) =>
      line.wrong[col] === undefined && (was[col] ?? line.kept?.texts[col] ?? '') === t ? (row.texts[col] ?? '') : t,
    );
    lines.set(row.id, { ...line, kept: { key: row.key, version: row.version, texts: row.texts }, texts });
  }
  for (const { id, problems } of refused) {
    const line = lines.get(id);
    if (!line) continue;
    const was = told.get(id)?.texts ?? {};
    const wrong = { ...line.wrong };
    for (const { col, sentence } of problems) {
      // A cell that is empty and wanted is told of, too.
      const sentText = was[col] ?? line.kept?.texts[col] ?? '';
      if (line.texts[col] === sentText) wrong[col] = sentence;
    }
    lines.set(id, { ...lines.get(id)!, wrong });
  }
  return { ...state, lines };
}

/** Rows that were told to be taken off or brought back are; each time is a version of its own. */
export function moved(state: GridState, ids: readonly string[]): GridState {
  const lines = new Map(state.lines);
  const up = (line: Line): Line => (line.kept ? { ...line, kept: { ...line.kept, version: line.kept.version + 1 } } : line);
  for (const id of ids) {
    const line = lines.get(id);
    if (line) lines.set(id, up(line));
  }
  const past = (acts: readonly Act[]): readonly Act[] => acts.map((a) => ({ ...a, removed: a.removed.map((l) => (ids.includes(l.id) ? up(l) : l)) }));
  return { ...state, lines, done: past(state.done), undone: past(state.undone), moves: state.moves.slice(1) };
}

/** Rows as the server has them now under what is typed and not kept. */
export function reread(state: GridState, rows: readonly Read[]): GridState {
  const ids = new Map([...state.lines.values()].flatMap((l) => (l.kept ? [[l.kept.key, l.id] as const] : [])));
  const lines = new Map<string, Line>();
  for (const kept of rows) {
    const id = ids.get(kept.key) ?? `k${kept.key}`;
    const line = state.lines.get(id);
    const texts = line
      ? kept.texts.map((t, col) => (line.texts[col] === line.kept?.texts[col] && line.wrong[col] === undefined ? t : (line.texts[col] ?? '')))
      : kept.texts;
    lines.set(id, { id, kept, texts, wrong: line?.wrong ?? {} });
  }
  for (const line of state.lines.values()) if (!line.kept) lines.set(line.id, line);
  const there = new Set(state.order);
  const order = [...state.order.filter((id) => lines.has(id)), ...[...lines.keys()].filter((id) => !there.has(id))];
  return { ...state, lines, order };
}
