import type { Block, Plan, Step } from './plan.ts';

/** The blocks a step holds, in the order a reader meets them. */
export interface Branch {
  /** `approved`, `declined`, `lapsed`, `otherwise`, `body`, `remedy`, `late`, or the id of a case or branch. */
  id: string;
  block: Block;
}
const named = ['approved', 'declined', 'lapsed', 'otherwise', 'body', 'remedy', 'late'] as const;

/** The step's blocks; with `change`, the step with each of them replaced. */
function across(step: Step, change: (branch: Branch) => Block): Step {
  const next: Record<string, unknown> = { ...step };
  if (step.kind === 'choose') next['cases'] = step.cases.map((c) => ({ ...c, block: change({ id: c.id, block: c.block }) }));
  if (step.kind === 'together') next['branches'] = step.branches.map((b) => ({ ...b, block: change({ id: b.id, block: b.block }) }));
  for (const id of named) {
    const block = (step as unknown as Record<string, Block | undefined>)[id];
    if (block) next[id] = change({ id, block });
  }
  return next as unknown as Step;
}

export function branches(step: Step): Branch[] {
  const found: Branch[] = [];
  if (!isCompound(step)) return found;
  across(step, (branch) => {
    found.push(branch);
    return branch.block;
  });
  return found;
}

/** The step with its blocks replaced, by branch id; the counterpart of `branches`. */
export const withBranches = (step: Step, change: (branch: Branch) => Block): Step => (isCompound(step) ? across(step, change) : step);

const compound = new Set<Step['kind']>(['gate', 'choose', 'together', 'forEach', 'repeat', 'guard']);
const isCompound = (step: Step): boolean => compound.has(step.kind);

/** Every step of a block in the order a reader meets them, with its depth and where it stands. */
export function* walk(block: Block, depth = 0, parent?: { step: Step; branch: string }): Generator<Walked> {
  for (const [index, step] of block.entries()) {
    yield { step, depth, index, block, parent };
    for (const branch of branches(step)) yield* walk(branch.block, depth + 1, { step, branch: branch.id });
  }
}
export interface Walked {
  step: Step;
  depth: number;
  index: number;
  block: Block;
  parent: { step: Step; branch: string } | undefined;
}

export const stepIds = (plan: Plan): Set<string> => new Set([...walk(plan.steps)].map((w) => w.step.id));
export const findStep = (plan: Plan, id: string): Step | undefined => {
  for (const { step } of walk(plan.steps)) if (step.id === id) return step;
  return undefined;
};
