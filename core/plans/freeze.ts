import { walk, withBranches } from './blocks.ts';
import { own } from '../boundary/index.ts';
import { partOf, roomOf, type Block, type Catalogue, type Part, type Step } from '../steps/index.ts';
import { partUsed } from './ways.ts';
import type { Plan } from './plan.ts';

/**
 * The plan as it is published: with every part it uses, as that part is now, and with the undoing action of each
 * provision written out, so that a run needs nothing that may change later.
 */
export function freeze(plan: Plan, catalogue: Catalogue): Plan {
  const parts: Record<string, Part> = {};
  const collect = (steps: Block) => {
    for (const { step } of walk(steps)) {
      const used = partUsed(step);
      const part = used === undefined || own(parts, used) ? undefined : partOf(catalogue, used);
      if (!part || used === undefined) continue;
      parts[used] = { ...part, steps: part.steps.map((s) => frozen(s, catalogue)) };
      collect(part.steps);
    }
  };
  collect(plan.steps);
  return { ...plan, steps: plan.steps.map((s) => frozen(s, catalogue)), ...(Object.keys(parts).length > 0 && { parts }) };
}

const frozen = (step: Step, catalogue: Catalogue): Step => {
  const whole = withBranches(step, (b) => b.block.map((s) => frozen(s, catalogue)));
  return roomOf(whole).frozen?.(whole, catalogue) ?? whole;
};

/** A published plan as a draft has it: without the parts that were written into it, and with nothing fixed that is as it is stated now. */
export function thaw({ parts: _, ...plan }: Plan, catalogue: Catalogue): Plan {
  const thawed = (step: Step): Step => {
    const whole = withBranches(step, (b) => b.block.map(thawed));
    return roomOf(whole).thawed?.(whole, catalogue) ?? whole;
  };
  return { ...plan, steps: plan.steps.map(thawed) };
}
