import type { Block, Position, Step } from '../steps/index.ts';
import { branches, walk, type Walked } from './blocks.ts';
import { insertAll, takenOut } from './rebuild.ts';
import type { Plan } from './plan.ts';

/** Whole sibling steps that are moved, wrapped and copied together, by id, in their order. */
export type Run = string[];

/** The siblings from one step to another, both included; the second alone where they do not stand in one block. */
export function runBetween(plan: Plan, from: string, to: string): Run {
  const ends = [...walk(plan.steps)].filter(({ step }) => step.id === from || step.id === to);
  const [a, b] = [ends[0], ends.at(-1)];
  if (!a || !b || a.block !== b.block) return [to];
  return a.block.slice(a.index, b.index + 1).map((s) => s.id);
}

/** The steps of a run, where all of it stands in one block. */
function stepsOf(plan: Plan, run: Run): Walked[] {
  const found = [...walk(plan.steps)].filter(({ step }) => run.includes(step.id));
  return found.every((w) => w.block === found[0]!.block) ? found : [];
}

/** The steps of a run in their order; none where they do not all stand in one block. */
export const stepsIn = (plan: Plan, run: Run): Step[] => stepsOf(plan, run).map((w) => w.step);

const targetOf = (at: Position): string => (at === 'start' ? '' : 'into' in at ? at.into : 'after' in at ? at.after : at.before);

/** Moves steps to a position that is not inside or beside one of themselves. */
export function moveTo(plan: Plan, run: Run, at: Position): Plan {
  const steps = stepsIn(plan, run);
  const inside = new Set([...walk(steps)].map((w) => w.step.id));
  if (steps.length === 0 || inside.has(targetOf(at))) return plan;
  return insertAll(takenOut(plan, run), at, steps);
}

/**
 * Moves steps by one place. `up` and `down`: through their block, and at its edge on into the neighbouring branch or out
 * beside the step that holds them. `in`: to the end of the step above. `out`: behind the step that holds them.
 */
export function moveRun(plan: Plan, run: Run, way: 'up' | 'down' | 'in' | 'out'): Plan {
  const found = stepsOf(plan, run);
  const [first, last] = [found[0], found.at(-1)];
  if (!first || !last) return plan;
  const at = placeFor(first, last, way);
  return at ? moveTo(plan, run, at) : plan;
}

function placeFor(first: Walked, last: Walked, way: 'up' | 'down' | 'in' | 'out'): Position | undefined {
  const { block, parent } = first;
  const before = block[first.index - 1];
  const after = block[last.index + 1];
  if (way === 'in') {
    const host = before && branches(before).at(-1);
    return host && endOf(before, host);
  }
  if (way === 'up' && before) return { before: before.id };
  if (way === 'down' && after) return { after: after.id };
  if (!parent) return undefined;
  if (way === 'out') return { after: parent.step.id };
  const ways = branches(parent.step);
  const beside = ways[ways.findIndex((b) => b.id === parent.branch) + (way === 'up' ? -1 : 1)];
  if (!beside) return way === 'up' ? { before: parent.step.id } : { after: parent.step.id };
  return way === 'up' ? endOf(parent.step, beside) : { into: parent.step.id, branch: beside.id };
}

/** Behind the last step of a branch. */
function endOf(host: Step, branch: { id: string; block: Block }): Position {
  const last = branch.block.at(-1);
  return last ? { after: last.id } : { into: host.id, branch: branch.id };
}

/** Every position steps can be moved to: beside any step that is not among or inside them, and into any branch that is empty. */
export function positionsFor(plan: Plan, run: Run): Position[] {
  const inside = new Set([...walk(stepsIn(plan, run))].map((w) => w.step.id));
  const found: Position[] = [];
  for (const { step, index } of walk(plan.steps)) {
    if (inside.has(step.id)) continue;
    if (index === 0) found.push({ before: step.id });
    found.push({ after: step.id });
    for (const b of branches(step)) if (b.block.length === 0) found.push({ into: step.id, branch: b.id });
  }
  return found;
}
