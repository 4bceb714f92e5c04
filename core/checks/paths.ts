import { branches, flowOf, outOfStep, partSteps, partUsed, walk } from '../plans/index.ts';
import { partOf, roomOf, stop, warn, type Block, type Finding, type Step } from '../steps/index.ts';
import type { Checked } from './family.ts';

/** A plan without steps comes to nothing. */
export const nothing = ({ plan }: Checked): Finding[] =>
  plan.steps.length > 0
    ? []
    : [
        {
          code: 'no-outcome',
          severity: 'stops',
          sentence: 'The plan has no steps, so a request would end without anything done.',
          mend: 'Add the first step.',
        },
      ];

/** Steps that nothing leads to: after a finish, or after a step none of whose ways comes out. */
export function unreached({ plan, catalogue }: Checked): Finding[] {
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

/** Closings that no end leads to: those inside other steps, and outcomes that an earlier one has. */
export function closings({ plan }: Checked): Finding[] {
  const found: Finding[] = [];
  const stated = new Map<string, Step>();
  for (const { step, depth } of walk(plan.steps)) {
    if (!roomOf(step).closes) continue;
    if (depth > 0) {
      const last = plan.steps.at(-1)!;
      found.push(
        stop(step, {
          code: 'closing-inside',
          sentence: `“${step.name}” stands inside another step; an end leads only to what stands in the plan itself.`,
          mend: 'Move it out.',
          fix: { words: `Move it after “${last.name}”`, edit: { move: step.id, to: { after: last.id } } },
        }),
      );
      continue;
    }
    for (const { id } of branches(step)) {
      const first = stated.get(id);
      if (!first) stated.set(id, step);
      else
        found.push(
          warn(step, {
            code: 'never-reached',
            sentence: `What “${step.name}” does before the request ends as ${id} is never done: “${first.name}” does that.`,
            mend: 'Take it off here, or there.',
          }),
        );
    }
  }
  return found;
}

/** Parts that use themselves, or each other in a circle. */
export function circles({ plan, catalogue }: Checked): Finding[] {
  const usedBy = (block: Block) => [...walk(block)].flatMap(({ step }) => partUsed(step) ?? []);
  const reaches = (from: string, target: string, seen = new Set<string>()): boolean => {
    const part = partOf(catalogue, from);
    if (!part || seen.has(from)) return false;
    seen.add(from);
    return usedBy(part.steps).some((id) => id === target || reaches(id, target, seen));
  };
  return [...walk(plan.steps)].flatMap(({ step }) => {
    const part = partUsed(step);
    if (part === undefined || !reaches(part, part)) return [];
    const sentence = `“${step.name}” uses a part that, in the end, uses itself; it would never end.`;
    return [stop(step, { code: 'circle', sentence, mend: 'Take the part out of itself.' })];
  });
}
