import { roomOf, type Block, type Step } from '../steps/index.ts';
import type { Plan } from './plan.ts';
import { branches } from './blocks.ts';

const known = new WeakMap<Plan, ReadonlyMap<string, string>>();

/**
 * What the requester reads of each step, by its id, never the name that designers gave it: the name it has for them, else
 * the milestone it leads to, else what its kind says. Worked out once for each plan that is kept.
 */
export function requesterNames(plan: Plan): ReadonlyMap<string, string> {
  const before = known.get(plan);
  if (before) return before;
  const names = new Map<string, string>();
  const milestoneOf = (step: Step): string | undefined => roomOf(step).milestone?.(step);
  const over = (block: Block, after: string | undefined): void => {
    // Backwards, so that the milestone that comes next is known.
    let next = after;
    for (const step of block.toReversed()) {
      next = milestoneOf(step) ?? next;
      names.set(step.id, step.forRequester ?? (next === undefined ? (roomOf(step).toRequester ?? 'The desk works on it') : `On the way to: ${next}`));
      for (const branch of branches(step)) over(branch.block, next);
    }
  };
  over(plan.steps, undefined);
  for (const part of Object.values(plan.parts ?? {})) over(part.steps, undefined);
  known.set(plan, names);
  return names;
}
