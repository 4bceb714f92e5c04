import { examine, type Domain, type Known, type Naming } from '../conditions/index.ts';
import { partOf, roomOf, stop, warn, type Block, type Catalogue, type Finding, type Places, type Step } from '../steps/index.ts';
import { branches, flowOf, walk } from './blocks.ts';
import { conditionsOf } from './check-conditions.ts';
import type { Plan } from './plan.ts';
import { outOfStep, partSteps } from './ways.ts';

/** Steps that nothing leads to: after a finish, or after a step none of whose ways comes out. */
export function unreached(plan: Plan, catalogue: Catalogue): Finding[] {
  const found: Finding[] = [];
  const part = partSteps(plan, catalogue);
  function run(block: Block): void {
    let open = true;
    for (const [i, step] of block.entries()) {
      if (!open) {
        const what = roomOf(step).milestone?.(step) === undefined ? `“${step.name}”` : `The milestone “${step.name}”`;
        const before = block[i - 1];
        found.push(
          warn(step, {
            code: 'never-reached',
            sentence: `${what} is never reached: the request has ended before it.`,
            mend: 'Move it further up, or remove it.',
            fix:
              before && flowOf(before).is === 'ends'
                ? { words: `Move it before “${before.name}”`, edit: { move: step.id, to: { before: before.id } } }
                : { words: 'Remove it', edit: { remove: step.id } },
          }),
        );
        // Said once for a block.
        return;
      }
      if (!comesOut(step)) open = false;
    }
  }
  function comesOut(step: Step): boolean {
    for (const b of branches(step)) run(b.block);
    return outOfStep(step, { part }).may;
  }
  run(plan.steps);
  return found;
}

/** The part whose steps a step goes through. */
export const partUsed = (step: Step): string | undefined => {
  const flow = flowOf(step);
  return flow.is === 'inside' ? flow.part : undefined;
};

/** Parts that use themselves, or each other in a circle. */
export function circles(steps: Block, catalogue: Catalogue): Finding[] {
  const usedBy = (block: Block) => [...walk(block)].flatMap(({ step }) => partUsed(step) ?? []);
  const reaches = (from: string, target: string, seen = new Set<string>()): boolean => {
    const part = partOf(catalogue, from);
    if (!part || seen.has(from)) return false;
    seen.add(from);
    return usedBy(part.steps).some((id) => id === target || reaches(id, target, seen));
  };
  return [...walk(steps)].flatMap(({ step }) => {
    const part = partUsed(step);
    if (part === undefined || !reaches(part, part)) return [];
    const sentence = `“${step.name}” uses a part that, in the end, uses itself; it would never end.`;
    return [stop(step, { code: 'circle', sentence, mend: 'Take the part out of itself.' })];
  });
}

const domainOf =
  (places: Places) =>
  (ref: string): Domain | undefined => {
    const p = places.get(ref);
    return (
      p && {
        type: p.type,
        optional: !p.always,
        ...(p.options && { options: p.options.map((o) => o.value) }),
        ...(p.min !== undefined && { min: p.min }),
        ...(p.max !== undefined && { max: p.max }),
      }
    );
  };

/** Conditions that never or always hold, cases that overlap or leave a gap, within what the places can hold. */
export function checkRanges(step: Step, here: Places, naming: Naming, given: Known[]): Finding[] {
  const { ranges } = roomOf(step);
  if (ranges) return ranges(step, domainOf(here), naming, given);
  return conditionsOf(step).flatMap(({ when, setting }) => {
    const seen = examine([when], domainOf(here), given);
    if (!seen || (seen.possible[0] && !seen.always[0])) return [];
    const [code, words] = seen.possible[0] ? (['always-holds', 'always holds'] as const) : (['never-holds', 'can never hold'] as const);
    return [warn(step, { code, sentence: `${setting} of “${step.name}” ${words}.`, mend: 'Correct the condition, or take it away.' })];
  });
}
