import { branchesOf, roomOf, type Block, type Branch, type Flow, type Step } from '../steps/index.ts';
import type { Plan } from './plan.ts';

/** The blocks a step holds, in the order a reader meets them. */
export const branches = (step: Step): Branch[] => branchesOf(roomOf(step), step);

/** The step with its blocks replaced, by branch id; the counterpart of `branches`. */
export const withBranches = (step: Step, change: (branch: Branch) => Block): Step => roomOf(step).across?.(step, change) ?? step;

/** How control goes through a step. */
export const flowOf = (step: Step): Flow => roomOf(step).flow?.(step) ?? { is: 'on' };

/** Whether somewhere in a block answers may be changed by others than the requester, or the form may come back. */
export const reopens = (block: Block): boolean => [...walk(block)].some(({ step }) => roomOf(step).reopens?.(step) === true);

/** Every step of a block in the order a reader meets them, with its depth and where it stands. */
export function* walk(block: Block, depth = 0, parent?: { step: Step; branch: string }): Generator<Walked> {
  for (const [index, step] of block.entries()) {
    yield { step, depth, index, block, parent };
    for (const branch of branches(step)) yield* walk(branch.block, depth + 1, { step, branch: branch.id });
  }
}
/** A step met on the way, and where it stands: `index` in `block`, `depth` from 0, and the step and branch around it. */
export interface Walked {
  step: Step;
  depth: number;
  index: number;
  block: Block;
  parent: { step: Step; branch: string } | undefined;
}

/** The keys of all steps of a plan. */
export const stepIds = (plan: Plan): Set<string> => new Set([...walk(plan.steps)].map((w) => w.step.id));
/** The step with this key, wherever in the plan. */
export const findStep = (plan: Plan, id: string): Step | undefined => {
  for (const { step } of walk(plan.steps)) if (step.id === id) return step;
  return undefined;
};

/** The milestones that a plan shows the requester, in reading order; `promised`: the working time from asking to each, where it is promised. */
export const milestonesOf = (plan: Plan): { id: string; words: string; promised?: string }[] =>
  [...walk(plan.steps)].flatMap(({ step }) => {
    const words = roomOf(step).milestone?.(step);
    const promised = roomOf(step).promisedIn?.(step);
    return words === undefined ? [] : [{ id: step.id, words, ...(promised !== undefined && { promised }) }];
  });
