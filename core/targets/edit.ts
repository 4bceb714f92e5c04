import type { Level, PriorityGrid } from './priority.ts';

/** What a grid has levels of. */
export type Axis = 'impacts' | 'urgencies' | 'priorities';

/** A grid with one more level at the end of an axis. A new impact or urgency gives the priorities of its neighbour until somebody says otherwise. */
export function withLevel(grid: PriorityGrid, axis: Axis, level: Level): PriorityGrid {
  const next = { ...grid, [axis]: [...grid[axis], level] };
  if (axis === 'impacts') return { ...next, cells: [...grid.cells, [...grid.cells.at(-1)!]] };
  return axis === 'urgencies' ? { ...next, cells: grid.cells.map((row) => [...row, row.at(-1)!]) } : next;
}

/**
 * A grid without a level; the last of its axis stays. Where it was the usual one, the one that takes its place is; cells of a priority that is
 * gone have the next lower one, of the lowest the next higher.
 */
export function withoutLevel(grid: PriorityGrid, axis: Axis, id: string): PriorityGrid {
  const at = grid[axis].findIndex((l) => l.id === id);
  if (at < 0 || grid[axis].length === 1) return grid;
  const left = grid[axis].toSpliced(at, 1);
  const instead = left[Math.min(at, left.length - 1)]!.id;
  const next = { ...grid, [axis]: left };
  if (axis === 'priorities') return { ...next, cells: grid.cells.map((row) => row.map((p) => (p === id ? instead : p))) };
  const cells = axis === 'impacts' ? grid.cells.toSpliced(at, 1) : grid.cells.map((row) => row.toSpliced(at, 1));
  const of = axis === 'impacts' ? 'impact' : 'urgency';
  return { ...next, cells, usual: grid.usual[of] === id ? { ...grid.usual, [of]: instead } : grid.usual };
}
