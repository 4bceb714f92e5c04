import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Id, Key } from '../values/index.ts';

/** What a routing table can look at of a case; `answer`: an answer of its form, by the field's id. */
export const factNames = ['kind', 'item', 'category', 'place', 'department', 'group', 'priority', 'answer'] as const;
/** The name of such a fact. */
export type FactName = (typeof factNames)[number];

/** A cell: for what the column's fact it holds. */
export const RoutingCell = z.discriminatedUnion('is', [
  z.object({ is: z.literal('any') }),
  /** Equals one of these; of several values (groups) one of them does. */
  z.object({ is: z.literal('oneOf'), values: z.array(line(200)).min(1, 'Choose at least one.').max(200) }),
  /** At one of these places, or anywhere within it. */
  z.object({ is: z.literal('under'), places: z.array(Key).min(1, 'Choose at least one place.').max(100) }),
  /** A number from one to another, both in it; absent: without that bound. */
  z
    .object({ is: z.literal('between'), from: z.number().optional(), to: z.number().optional() })
    .refine((c) => c.from !== undefined || c.to !== undefined, 'State a bound at least.')
    .refine((c) => c.from === undefined || c.to === undefined || c.from <= c.to, 'The first number is the smaller one.'),
  z.object({ is: z.literal('empty') }),
]);
export type RoutingCell = z.infer<typeof RoutingCell>;

/** Who in a team gets what is routed to it: whoever picks it up, each in turn, or who has the least open work. */
export const spreads = ['pickUp', 'inTurn', 'leastLoaded'] as const;

/** Who gets it: a team, with how it is spread there, or a person. */
export const RoutingAnswer = z.union([z.object({ team: Key, how: z.enum(spreads) }), z.object({ person: Key })]);
export type RoutingAnswer = z.infer<typeof RoutingAnswer>;

/** A column: the fact that its cells look at. */
export const RoutingColumn = z
  .object({ id: Id, fact: z.enum(factNames), field: Id.optional() })
  .refine((c) => (c.fact === 'answer') === (c.field !== undefined), 'Say which answer the column looks at.');
export type RoutingColumn = z.infer<typeof RoutingColumn>;

/** A row: what it is for, and who gets it. A column that it does not name may be anything. */
export const RoutingRow = z.object({ id: Id, cells: z.record(Id, RoutingCell), answer: RoutingAnswer });
export type RoutingRow = z.infer<typeof RoutingRow>;

/** Which row counts where several match: the most specific, the first, or no two may. */
export const choosings = ['nearest', 'first', 'unique'] as const;

/** Who gets a case, by what is known of it. */
export const RoutingTable = z
  .object({
    name: line(80).trim().min(1, 'The table needs a name.'),
    chooses: z.enum(choosings),
    columns: z.array(RoutingColumn).max(12),
    rows: z.array(RoutingRow).max(5000),
    /** Who gets what no row takes. */
    fallback: RoutingAnswer,
  })
  .superRefine((table, ctx) => {
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    const columns = new Set(table.columns.map((c) => c.id));
    if (columns.size < table.columns.length) wrong(['columns'], 'Two columns have the same id.');
    if (new Set(table.columns.map(factKey)).size < table.columns.length) wrong(['columns'], 'Two columns look at the same fact.');
    if (new Set(table.rows.map((r) => r.id)).size < table.rows.length) wrong(['rows'], 'Two rows have the same id.');
    const places = new Set(table.columns.flatMap((c) => (c.fact === 'place' ? [c.id] : [])));
    table.rows.forEach((row, i) => {
      for (const [id, cell] of Object.entries(row.cells)) {
        if (!columns.has(id)) wrong(['rows', i, 'cells', id], 'This column is not there any more.');
        else if (cell.is === 'under' && !places.has(id)) wrong(['rows', i, 'cells', id], 'Only a place has places within it.');
      }
    });
  });
export type RoutingTable = z.infer<typeof RoutingTable>;

/** What a column looks at, as facts are keyed: `kind`, `place`, `answer.size`. */
export const factKey = (column: Pick<RoutingColumn, 'fact' | 'field'>): string =>
  column.fact === 'answer' ? `answer.${column.field ?? ''}` : column.fact;

/** What is known of a case by `factKey`: a text, a number, several texts, or nothing. A place is its id. */
export type RoutingFacts = ReadonlyMap<string, string | number | readonly string[] | null>;

/** The place around each place; of the widest null. */
export type PlaceTree = ReadonlyMap<string, string | null>;

/** A place and those around it, the nearest first. A circle ends where it closes. */
export function placesAround(tree: PlaceTree, place: string | null | undefined): string[] {
  const found: string[] = [];
  for (let at = place ?? null; at !== null && !found.includes(at); at = tree.get(at) ?? null) found.push(at);
  return found;
}

const any: RoutingCell = { is: 'any' };
/** What a row wants in a column. */
export const cellOf = (row: RoutingRow, column: string): RoutingCell => (Object.hasOwn(row.cells, column) ? row.cells[column]! : any);

/** Whether a cell holds for a fact: the meaning that everything compiled is held against. */
export function cellHolds(cell: RoutingCell, fact: string | number | readonly string[] | null | undefined, tree: PlaceTree): boolean {
  const given = fact === undefined || fact === '' ? null : fact;
  switch (cell.is) {
    case 'any':
      return true;
    case 'empty':
      return given === null || (Array.isArray(given) && given.length === 0);
    case 'oneOf':
      return given !== null && (Array.isArray(given) ? given.some((g) => cell.values.includes(g as string)) : cell.values.includes(String(given)));
    case 'under':
      return typeof given === 'string' && placesAround(tree, given).some((p) => cell.places.includes(p));
    case 'between':
      return typeof given === 'number' && given >= (cell.from ?? -Infinity) && given <= (cell.to ?? Infinity);
  }
}

/** How many columns a row states something in. */
export const statedIn = (table: RoutingTable, row: RoutingRow): number => table.columns.filter((c) => cellOf(row, c.id).is !== 'any').length;

/** How far up from a place the nearest one is that a cell names; Infinity where it names none of those around. */
export function distanceTo(cell: RoutingCell, around: readonly string[]): number {
  if (cell.is === 'under') {
    const at = around.findIndex((p) => cell.places.includes(p));
    return at < 0 ? Infinity : at;
  }
  return cell.is === 'oneOf' && around[0] !== undefined && cell.values.includes(around[0]) ? 0 : Infinity;
}

/**
 * Whether one of two rows that both match is more specific: it states more columns; or as many, and both name a place, and its own is
 * nearer. Rows that state as many and do not both name a place are equally specific.
 */
export function beats(table: RoutingTable, a: RoutingRow, b: RoutingRow, around: readonly string[]): boolean {
  const [ofA, ofB] = [statedIn(table, a), statedIn(table, b)];
  if (ofA !== ofB) return ofA > ofB;
  const place = table.columns.find((c) => c.fact === 'place');
  if (!place) return false;
  const [toA, toB] = [distanceTo(cellOf(a, place.id), around), distanceTo(cellOf(b, place.id), around)];
  return toA < toB && toB !== Infinity;
}

/**
 * The place in the table of the row that takes a case; undefined where the fallback does. Read row by row, as a person would: what is
 * compiled is held against it. Of several equally specific rows, and in a table of unique rows, the first counts.
 */
export function rowFor(table: RoutingTable, facts: RoutingFacts, tree: PlaceTree): number | undefined {
  const matching = table.rows.flatMap((row, i) => (table.columns.every((c) => cellHolds(cellOf(row, c.id), facts.get(factKey(c)), tree)) ? [i] : []));
  if (table.chooses !== 'nearest') return matching[0];
  const place = facts.get('place');
  const around = placesAround(tree, typeof place === 'string' ? place : null);
  return matching.find((i) => !matching.some((j) => j !== i && beats(table, table.rows[j]!, table.rows[i]!, around)));
}
