import { walk, withBranches } from './blocks.ts';
import { actionOf, partOf, type Catalogue } from './catalogue.ts';
import type { Block, Part, Plan, Step } from './plan.ts';

/**
 * The plan as it is published: with every part it uses, as that part is now, and with the undoing action of each
 * provision written out, so that a run needs nothing that may change later.
 */
export function freeze(plan: Plan, catalogue: Catalogue): Plan {
  const parts: Record<string, Part> = {};
  const collect = (steps: Block) => {
    for (const { step } of walk(steps)) {
      if (step.kind !== 'part' || !step.part || parts[step.part]) continue;
      const part = partOf(catalogue, step.part);
      if (!part) continue;
      parts[step.part] = { ...part, steps: part.steps.map((s) => withUndo(s, catalogue)) };
      collect(part.steps);
    }
  };
  collect(plan.steps);
  return { ...plan, steps: plan.steps.map((s) => withUndo(s, catalogue)), ...(Object.keys(parts).length > 0 && { parts }) };
}

function withUndo(step: Step, catalogue: Catalogue): Step {
  if (step.kind !== 'provision') return withBranches(step, (b) => b.block.map((s) => withUndo(s, catalogue)));
  const undo = step.undo ?? actionOf(catalogue, step.action)?.undoneBy;
  return undo === undefined ? step : { ...step, undo };
}
