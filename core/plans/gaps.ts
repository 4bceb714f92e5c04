import { branches, walk } from './blocks.ts';
import { positionsFor, stepsIn, type Run } from './moves.ts';
import { branchLine, type Line } from './outline.ts';
import type { Plan } from './plan.ts';
import type { Position } from '../steps/index.ts';

/** A place between two lines of the sheet where steps may be put. */
export interface Gap {
  at: Position;
  /** How many of the lines stand above it. */
  above: number;
  /** How far it is indented. */
  depth: number;
}

/**
 * Where among the lines that are seen steps may be put: beside any step that is not one of them or inside one, into branches
 * that are empty, and into those that are folded.
 */
export function gapsFor(plan: Plan, run: Run, lines: Line[]): Gap[] {
  const index = new Map(lines.map((l, i) => [l.id, i]));
  const afterAll = (i: number): number => {
    let end = i + 1;
    while (end < lines.length && lines[end]!.level > lines[i]!.level) end++;
    return end;
  };
  const moved = new Set([...walk(stepsIn(plan, run))].map((w) => w.step.id));
  const folded = lines.flatMap((l, i): Gap[] => {
    if (l.holds === 0 || moved.has(l.is === 'step' ? l.id : l.of) || afterAll(i) > i + 1) return [];
    if (l.is === 'branch') return [{ at: { into: l.of, branch: l.branch }, above: i + 1, depth: l.guides.length }];
    return [{ at: { into: l.id, branch: branches(l.step).find((b) => b.block.length > 0)!.id }, above: i + 1, depth: l.guides.length + 1 }];
  });
  const beside = positionsFor(plan, run).flatMap((at): Gap[] => {
    if (at === 'start') return [];
    const line = 'into' in at ? branchLine(at.into, at.branch) : 'after' in at ? at.after : at.before;
    const i = index.get(line);
    if (i === undefined) return [];
    const above = 'into' in at ? i + 1 : 'after' in at ? afterAll(i) : i;
    return [{ at, above, depth: lines[i]!.guides.length }];
  });
  return [...beside, ...folded];
}

/** The gap nearest to a place, given as a number of lines from above and a depth; of equal ones the deeper. */
export function nearestGap(gaps: Gap[], above: number, depth: number): Gap | undefined {
  const far = (g: Gap) => Math.abs(g.above - above) * 100 + Math.abs(g.depth - depth);
  return gaps.toSorted((a, b) => far(a) - far(b) || b.depth - a.depth)[0];
}
