import {
  cellHolds,
  cellOf,
  distanceTo,
  factKey,
  placesAround,
  statedIn,
  type PlaceTree,
  type RoutingCell,
  type RoutingFacts,
  type RoutingTable,
} from './table.ts';

type Bits = Uint32Array;

/** What a column answers: which rows hold for a fact, as bits in the order of the compiled table. */
interface CompiledColumn {
  key: string;
  /** By a text, or a place with those around it. */
  known: Map<string, Bits>;
  /** For texts that no cell names, for nothing, and for numbers by the stretch they lie in. */
  other: Bits;
  empty: Bits;
  edges: number[];
  stretches: Bits[];
}

/** A routing table made ready for many decisions. */
export interface Router {
  /** The place in the table of the row that takes a case; undefined where the fallback does. As `rowFor`, for any facts. */
  decide: (facts: RoutingFacts) => number | undefined;
}

/**
 * Makes a routing table ready: for each column, which rows hold for each value that some cell tells apart. A decision is then one
 * conjunction of bits a column, whatever the cells are; rows stand in the order in which they win.
 */
export function compileRouting(table: RoutingTable, tree: PlaceTree): Router {
  const { rows } = table;
  const stated = rows.map((r) => statedIn(table, r));
  // In a table where the most specific wins the rows that state most come first, and stay in their order otherwise.
  const order = rows.map((_, i) => i);
  if (table.chooses === 'nearest') order.sort((a, b) => stated[b]! - stated[a]! || a - b);
  const words = Math.max(1, Math.ceil(rows.length / 32));
  const bitsOf = (holds: (cell: RoutingCell) => boolean, column: string): Bits => {
    const bits = new Uint32Array(words);
    order.forEach((row, n) => {
      if (holds(cellOf(rows[row]!, column))) bits[n >>> 5]! |= 1 << (n & 31);
    });
    return bits;
  };
  const columns = table.columns.map((c): CompiledColumn => {
    const cells = rows.map((r) => cellOf(r, c.id));
    const known = new Map<string, Bits>();
    const texts = new Set(cells.flatMap((cell) => (cell.is === 'oneOf' ? cell.values : [])));
    if (c.fact === 'place') {
      for (const place of tree.keys()) texts.add(place);
      for (const cell of cells) if (cell.is === 'under') for (const place of cell.places) texts.add(place);
    }
    for (const t of texts)
      known.set(
        t,
        bitsOf((cell) => cellHolds(cell, t, tree), c.id),
      );
    const edges = [...new Set(cells.flatMap((cell) => (cell.is === 'between' ? [cell.from, cell.to] : [])).filter((n) => n !== undefined))].sort(
      (a, b) => a - b,
    );
    // A stretch before each edge, the edge itself, and the one behind the last.
    const within = (n: number) => bitsOf((cell) => cell.is === 'any' || (cell.is === 'between' && cellHolds(cell, n, tree)), c.id);
    const stretches = edges.flatMap((edge, i) => [within(i === 0 ? -Infinity : (edges[i - 1]! + edge) / 2), within(edge)]);
    stretches.push(within(Infinity));
    return {
      key: factKey(c),
      known,
      other: bitsOf((cell) => cell.is === 'any', c.id),
      empty: bitsOf((cell) => cell.is === 'any' || cell.is === 'empty', c.id),
      edges,
      stretches,
    };
  });
  const placeColumn = table.columns.find((c) => c.fact === 'place');
  const all = bitsOf(() => true, '');

  const holding = (column: CompiledColumn, fact: ReturnType<RoutingFacts['get']>): Bits => {
    if (fact === null || fact === undefined || fact === '') return column.empty;
    if (typeof fact === 'string') return column.known.get(fact) ?? column.other;
    if (typeof fact === 'number') {
      const number = column.stretches[stretchOf(column.edges, fact)]!;
      const text = column.known.size > 0 ? column.known.get(String(fact)) : undefined;
      return text ? number.map((w, i) => w | text[i]!) : number;
    }
    if (fact.length === 0) return column.empty;
    return fact.reduce<Bits>((bits, f) => {
      const its = column.known.get(f);
      return its ? bits.map((w, i) => w | its[i]!) : bits;
    }, column.other);
  };

  const decide: Router['decide'] = (facts) => {
    const held = columns.map((c) => holding(c, facts.get(c.key)));
    /** Of the rows that state most: the first of the nearest place, and the first that no place can beat. */
    let nearest: number | undefined;
    let free: number | undefined;
    let away = Infinity;
    let around: string[] | undefined;
    for (let w = 0; w < words; w++) {
      let bits = all[w]!;
      for (const h of held) bits &= h[w]!;
      while (bits !== 0) {
        const lowest = bits & -bits;
        const row = order[w * 32 + 31 - Math.clz32(lowest)]!;
        bits ^= lowest;
        if (table.chooses !== 'nearest' || !placeColumn) return row;
        const before = nearest ?? free;
        if (before !== undefined && stated[row] !== stated[before]) return firstOf(nearest, free);
        around ??= aroundOf(facts, tree);
        const its = distanceTo(cellOf(rows[row]!, placeColumn.id), around);
        if (its === Infinity) free ??= row;
        else if (its < away) [nearest, away] = [row, its];
      }
    }
    return firstOf(nearest, free);
  };
  return { decide };
}

const firstOf = (a: number | undefined, b: number | undefined): number | undefined => (a === undefined || (b !== undefined && b < a) ? b : a);

const aroundOf = (facts: RoutingFacts, tree: PlaceTree): string[] => {
  const place = facts.get('place');
  return placesAround(tree, typeof place === 'string' ? place : null);
};

/** Which stretch a number lies in: 2i + 1 on the edge i, 2i before it. */
function stretchOf(edges: readonly number[], n: number): number {
  let low = 0;
  for (let high = edges.length; low < high;) {
    const middle = (low + high) >> 1;
    if (edges[middle]! < n) low = middle + 1;
    else high = middle;
  }
  return edges[low] === n ? 2 * low + 1 : 2 * low;
}
