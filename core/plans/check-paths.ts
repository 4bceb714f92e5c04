import { conditionWords, examine, type Condition, type Domain, type Example, type Known, type Naming } from '../conditions/index.ts';
import { branches, walk } from './blocks.ts';
import { partOf, type Catalogue } from './catalogue.ts';
import { stop, warn, type Finding } from './finding.ts';
import { outOfStep, partSteps } from './ways.ts';
import type { Places } from './places.ts';
import type { Block, Part, Plan, Step } from './plan.ts';

/** Steps that nothing leads to: after a finish, or after a step none of whose ways comes out. */
export function unreached(plan: Plan, catalogue: Catalogue): Finding[] {
  const found: Finding[] = [];
  const part = partSteps(plan, catalogue);
  function run(block: Block): void {
    let open = true;
    for (const [i, step] of block.entries()) {
      if (!open) {
        const what = step.kind === 'mark' && step.shows === 'milestone' ? `The milestone “${step.name}”` : `“${step.name}”`;
        found.push(
          warn(step, {
            code: 'never-reached',
            sentence: `${what} is never reached: the request has ended before it.`,
            mend: 'Move it further up, or remove it.',
            fix:
              block[i - 1]?.kind === 'finish'
                ? { words: `Move it before “${block[i - 1]!.name}”`, edit: { move: step.id, to: { before: block[i - 1]!.id } } }
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

/** Parts that use themselves, or each other in a circle. */
export function circles(steps: Block, catalogue: Catalogue): Finding[] {
  const usedBy = (part: Part) => [...walk(part.steps)].flatMap(({ step }) => (step.kind === 'part' && step.part ? [step.part] : []));
  const reaches = (from: string, target: string, seen = new Set<string>()): boolean => {
    const part = partOf(catalogue, from);
    if (!part || seen.has(from)) return false;
    seen.add(from);
    return usedBy(part).some((id) => id === target || reaches(id, target, seen));
  };
  return [...walk(steps)].flatMap(({ step }) =>
    step.kind === 'part' && step.part && reaches(step.part, step.part)
      ? [
          stop(step, {
            code: 'circle',
            sentence: `“${step.name}” uses a part that, in the end, uses itself; it would never end.`,
            mend: 'Take the part out of itself.',
          }),
        ]
      : [],
  );
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
  const words = (example: Example) =>
    Object.entries(example)
      .map(([ref, v]) => conditionWords(v === null ? { not: { has: { ref } } } : { compare: 'is', left: { ref }, right: { literal: v } }, naming))
      .join(' and ');
  const found: Finding[] = [];
  if (step.kind === 'choose') {
    const ranges = examine(
      step.cases.map((c) => c.when),
      domainOf(here),
      given,
    );
    if (!ranges) return [];
    step.cases.forEach((c, i) => {
      if (!c.when || ranges.first[i]) return;
      const fix = { words: `Remove the case “${c.name}”`, edit: { replace: { ...step, cases: step.cases.toSpliced(i, 1) } } };
      const sentence = ranges.possible[i]
        ? `The case “${c.name}” of “${step.name}” is never taken: the cases above it take everything it would.`
        : `The case “${c.name}” of “${step.name}” can never hold.`;
      found.push(warn(step, { code: 'never-holds', sentence, mend: 'Correct its condition, move it up, or remove it.', fix }));
    });
    const only = step.cases.length === 1 && step.cases[0]?.when && ranges.always[0];
    if (only)
      found.push(
        warn(step, {
          code: 'always-holds',
          sentence: `The case “${step.cases[0]!.name}” of “${step.name}” always holds, so there is nothing to choose.`,
          mend: 'Correct its condition, or take the steps out of the choice.',
        }),
      );
    if (!step.otherwise && ranges.gap) {
      const sentence = `“${step.name}” has no case when ${words(ranges.gap)}, and nothing for otherwise; the request would go on without any of them.`;
      found.push(
        warn(step, {
          code: 'gap',
          sentence,
          mend: 'Add a case, or say what happens otherwise.',
          fix: { words: 'Add an otherwise', edit: { replace: { ...step, otherwise: [] } } },
        }),
      );
    }
    for (const o of ranges.overlaps) {
      const [a, b] = [step.cases[o.a]!, step.cases[o.b]!];
      if (!ranges.first[o.a] || !ranges.first[o.b]) continue;
      found.push(
        warn(step, {
          code: 'overlap',
          sentence: `“${a.name}” and “${b.name}” of “${step.name}” both hold when ${words(o.example)}; then “${a.name}” is taken.`,
          mend: 'Leave it so if that is meant, or make the conditions exclude each other.',
        }),
      );
    }
  }
  const single = (when: Condition | undefined, what: string) => {
    const ranges = when && examine([when], domainOf(here), given);
    if (!ranges) return;
    if (!ranges.possible[0])
      found.push(
        warn(step, { code: 'never-holds', sentence: `${what} of “${step.name}” can never hold.`, mend: 'Correct the condition, or take it away.' }),
      );
    else if (ranges.always[0])
      found.push(
        warn(step, { code: 'always-holds', sentence: `${what} of “${step.name}” always holds.`, mend: 'Correct the condition, or take it away.' }),
      );
  };
  if (step.kind === 'tell') step.body.forEach((p) => single(p.when, 'A condition in the message'));
  if (step.kind === 'task') step.instructions.forEach((p) => single(p.when, 'A condition in the instructions'));
  if (step.kind === 'repeat') single(step.until, 'The condition that ends it');
  return found;
}
