import type { Block, Position, Step } from '../steps/index.ts';
import { branches, withBranches } from './blocks.ts';
import type { Plan } from './plan.ts';

/** Puts a step at a position; where there is none such, the same plan. */
export function insertStep(plan: Plan, at: Position, step: Step): Plan {
  if (at === 'start') return { ...plan, steps: [step, ...plan.steps] };
  if ('into' in at) {
    return changeStep(plan, at.into, (host) => withBranches(host, (b) => (b.id === at.branch ? [step, ...b.block] : b.block)));
  }
  const beside = 'after' in at ? at.after : at.before;
  return changeBlocks(plan, (block) => {
    const index = block.findIndex((s) => s.id === beside);
    return index < 0 ? block : block.toSpliced('after' in at ? index + 1 : index, 0, step);
  });
}

/** Puts steps at a position in their order. */
export function insertAll(plan: Plan, at: Position, steps: Block): Plan {
  // Each goes right beside the place, so the one that ends up farthest from it goes first.
  const order = at !== 'start' && 'before' in at ? steps : steps.toReversed();
  return order.reduce((p, step) => insertStep(p, at, step), plan);
}

/** Takes steps out to put them elsewhere: their keys stay their own. */
export const takenOut = (plan: Plan, ids: string[]): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => ids.includes(s.id)) ? block.filter((s) => !ids.includes(s.id)) : block));

/** Rewrites every block, innermost first; blocks that come back the same keep their identity. */
export function changeBlocks(plan: Plan, change: (block: Block) => Block): Plan {
  const deep = (block: Block): Block => {
    const inner = block.map((step) => (branches(step).length === 0 ? step : rebuilt(step)));
    const same = inner.every((s, i) => s === block[i]);
    return change(same ? block : inner);
  };
  const rebuilt = (step: Step): Step => {
    let touched = false;
    const next = withBranches(step, (b) => {
      const block = deep(b.block);
      touched ||= block !== b.block;
      return block;
    });
    return touched ? next : step;
  };
  const steps = deep(plan.steps);
  return steps === plan.steps ? plan : { ...plan, steps };
}

/** The plan with one step replaced by what `change` makes of it. */
export const changeStep = (plan: Plan, id: string, change: (step: Step) => Step): Plan =>
  changeBlocks(plan, (block) => (block.some((s) => s.id === id) ? block.map((s) => (s.id === id ? change(s) : s)) : block));
