import { cellHolds, cellOf, factKey, placesAround, type PlaceTree, type RoutingTable } from './table.ts';

/** What a fact can be: these values, other texts too, numbers, or several of the values at once; and whether it can be nothing. */
export interface FactDomain {
  values: readonly string[];
  others?: boolean;
  numbers?: boolean;
  several?: boolean;
  empty: boolean;
}

/** What the facts of cases can be, by `factKey`; and which categories there are of each kind. */
export interface RoutingDomain {
  facts: ReadonlyMap<string, FactDomain>;
  categoriesOf?: ReadonlyMap<string, ReadonlySet<string>>;
}

/** Values of a fact that no cell of a table tells apart. */
export interface FactClass {
  /** Values, by their texts; none where it is nothing, another text or a stretch of numbers. */
  values: string[];
  is: 'values' | 'empty' | 'other' | 'stretch';
  /** A stretch of numbers: on an edge both are the same, beyond all edges one is missing. */
  from?: number;
  to?: number;
  /** How many values that are; a stretch, other texts and nothing count as one. */
  size: number;
  /** The rows that hold for them, in order. */
  rows: Set<number>;
}

/** More groups than this in one column have more subsets than are looked through. */
const mostSeveral = 8;

/** The classes of a column; undefined where it cannot be looked through. */
export function classesOf(
  table: RoutingTable,
  column: RoutingTable['columns'][number],
  domain: RoutingDomain,
  tree: PlaceTree,
): FactClass[] | undefined {
  const its = domain.facts.get(factKey(column));
  if (!its) return undefined;
  const cells = table.rows.map((r) => cellOf(r, column.id));
  const holding = (fact: string | number | readonly string[] | null): Set<number> =>
    new Set(cells.flatMap((cell, i) => (cellHolds(cell, fact, tree) ? [i] : [])));
  const found: FactClass[] = [];
  if (its.several) {
    const named = [...new Set(cells.flatMap((c) => (c.is === 'oneOf' ? c.values : [])))].filter((v) => its.values.includes(v));
    if (named.length > mostSeveral) return undefined;
    const unnamed = its.values.length > named.length;
    for (let n = 0; n < 1 << named.length; n++) {
      const some = named.filter((_, i) => (n >> i) & 1);
      if (some.length > 0) found.push({ is: 'values', values: some, size: 1, rows: holding(some) });
    }
    if (unnamed) found.push({ is: 'other', values: [], size: 1, rows: holding(['\u0000']) });
  } else {
    // A place is told from another by the rows that hold, and by how far it is from the places that cells name.
    const distances = (value: string) => (column.fact === 'place' ? placesAround(tree, value).join(' ') : '');
    const byRows = new Map<string, FactClass>();
    for (const value of its.values) {
      const rows = holding(value);
      const key = `${[...rows].join(',')} ${distances(value)}`;
      const known = byRows.get(key);
      if (known) {
        known.values.push(value);
        known.size++;
      } else byRows.set(key, { is: 'values', values: [value], size: 1, rows });
    }
    found.push(...byRows.values());
    if (its.others) found.push({ is: 'other', values: [], size: 1, rows: holding('\u0000') });
    if (its.numbers) found.push(...stretches(cells, holding));
  }
  if (its.empty) found.push({ is: 'empty', values: [], size: 1, rows: holding(null) });
  return found;
}

function stretches(cells: ReturnType<typeof cellOf>[], holding: (n: number) => Set<number>): FactClass[] {
  const named = cells.flatMap((c) => (c.is === 'between' ? [c.from, c.to] : c.is === 'oneOf' ? c.values.map(Number) : []));
  const edges = [...new Set(named.filter((n) => n !== undefined && Number.isFinite(n)))].sort((a, b) => a! - b!) as number[];
  const found: FactClass[] = [];
  const add = (from: number | undefined, to: number | undefined, inside: number) =>
    found.push({ is: 'stretch', values: [], size: 1, rows: holding(inside), ...(from !== undefined && { from }), ...(to !== undefined && { to }) });
  edges.forEach((edge, i) => {
    const before = edges[i - 1];
    add(before, edge, before === undefined ? edge - 1 : (before + edge) / 2);
    add(edge, edge, edge);
  });
  const last = edges.at(-1);
  add(last, undefined, last === undefined ? 0 : last + 1);
  return found;
}
