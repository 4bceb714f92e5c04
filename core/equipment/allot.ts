import { placesAround, type PlaceTree } from '../routing/index.ts';

/** Somebody who waits for a piece of one kind. `place`: where it is wanted; null: that is not known. */
export interface Waiting {
  id: string;
  place: string | null;
}

/**
 * How many steps up and down the tree lie between two places: 0 for the same place, 1 for a building and its floor, 2 for two floors of
 * one building. Infinity where nothing stands above both, or one of them is not known.
 */
export function stepsBetween(tree: PlaceTree, a: string | null, b: string | null): number {
  const [fromA, fromB] = [placesAround(tree, a), placesAround(tree, b)];
  const up = fromA.findIndex((p) => fromB.includes(p));
  return up < 0 ? Infinity : up + fromB.indexOf(fromA[up]!);
}

/**
 * Who of those who wait gets a piece, and from which place. Whoever waits longest is first, and gets it from the nearest place that has
 * one left; of several as near, from the one named first. Who comes later gets nothing while somebody earlier could have had it.
 *
 * @param waiting In the order in which they came.
 * @param free How many pieces are free, by place.
 */
export function allot(waiting: readonly Waiting[], free: ReadonlyMap<string, number>, tree: PlaceTree): { id: string; from: string }[] {
  const left = new Map([...free].filter(([, n]) => n > 0));
  const given: { id: string; from: string }[] = [];
  for (const { id, place } of waiting) {
    let nearest: { from: string; steps: number } | undefined;
    for (const from of left.keys()) {
      const steps = stepsBetween(tree, place, from);
      if (nearest === undefined || steps < nearest.steps) nearest = { from, steps };
    }
    if (nearest === undefined) break;
    given.push({ id, from: nearest.from });
    const n = left.get(nearest.from)! - 1;
    if (n > 0) left.set(nearest.from, n);
    else left.delete(nearest.from);
  }
  return given;
}
