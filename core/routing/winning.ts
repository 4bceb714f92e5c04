import { cellOf, placesAround, statedIn, type PlaceTree, type RoutingRow, type RoutingTable } from './table.ts';

/**
 * The rows of a table in which the most specific wins, in an order in which the first that matches is the one that wins: a row with several
 * places stands once for each. Undefined where there is no such order: of rows that state as many columns two that name a place, one within
 * the other, cannot stand on both sides of one that names none.
 */
export function winningOrder(table: RoutingTable, tree: PlaceTree): RoutingRow[] | undefined {
  const column = table.columns.find((c) => c.fact === 'place')?.id;
  const parts = table.rows.flatMap((row, index) => placesOf(row, column).map((place) => ({ row: withPlace(row, column, place), index, place })));
  const groups = new Map<number, typeof parts>();
  for (const part of parts) {
    const stated = statedIn(table, part.row);
    groups.set(stated, [...(groups.get(stated) ?? []), part]);
  }
  const sorted: RoutingRow[] = [];
  for (const [, group] of [...groups].toSorted((a, b) => b[0] - a[0])) {
    const around = group.map((p) => new Set(p.place === undefined ? [] : placesAround(tree, p.place)));
    /** Whether one has to stand before another. */
    const before = (a: number, b: number): boolean => {
      const [one, other] = [group[a]!, group[b]!];
      const inOrder = one.index < other.index;
      if (one.place === undefined || other.place === undefined || one.place === other.place) return inOrder;
      // Where neither is within the other no case is at both.
      return around[a]!.has(other.place);
    };
    const waitsFor = group.map((_, b) => group.reduce((n, _, a) => n + (a !== b && before(a, b) ? 1 : 0), 0));
    const left = new Set(group.keys());
    while (left.size > 0) {
      const next = [...left].find((a) => waitsFor[a] === 0);
      if (next === undefined) return undefined;
      left.delete(next);
      for (const b of left) if (before(next, b)) waitsFor[b]!--;
      sorted.push(group[next]!.row);
    }
  }
  return sorted;
}

function placesOf(row: RoutingRow, column: string | undefined): (string | undefined)[] {
  const cell = column === undefined ? undefined : cellOf(row, column);
  if (cell?.is === 'under') return cell.places;
  return cell?.is === 'oneOf' ? cell.values : [undefined];
}

function withPlace(row: RoutingRow, column: string | undefined, place: string | undefined): RoutingRow {
  if (column === undefined || place === undefined) return row;
  const cell = cellOf(row, column);
  return { ...row, cells: { ...row.cells, [column]: cell.is === 'under' ? { is: 'under', places: [place] } : { is: 'oneOf', values: [place] } } };
}
