import { conditionWords, examine, type Condition, type Domain, type Example, type Known, type Naming } from '../conditions/index.ts';
import { sentence } from '../values/index.ts';
import { branches, walk } from './blocks.ts';
import { partOf, type Catalogue } from './catalogue.ts';
import { newStep } from './edit.ts';
import { stop, warn, type Finding } from './finding.ts';
import type { Places } from './places.ts';
import type { Block, Part, Plan, Step, StepOf } from './plan.ts';

/** Steps that nothing leads to: after a finish, or after a step none of whose ways comes out. */
export function unreached(plan: Plan): Finding[] {
  const found: Finding[] = [];
  /** Whether the block's end is reached. */
  function run(block: Block): boolean {
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
        return false;
      }
      if (!comesOut(step)) open = false;
    }
    return open;
  }
  function comesOut(step: Step): boolean {
    if (step.kind === 'finish') return false;
    const outs = new Map(branches(step).map((b) => [b.id, run(b.block)]));
    if (step.kind === 'gate') return [outs.get('approved') ?? true, outs.get('declined') ?? false, outs.get('lapsed') ?? false].some(Boolean);
    if (step.kind === 'choose') return !step.otherwise || [...outs.values()].some(Boolean);
    if (step.kind === 'together') return step.join === 'first' ? [...outs.values()].some(Boolean) : [...outs.values()].every(Boolean);
    if (step.kind === 'repeat') return outs.get('body') ?? true;
    if (step.kind === 'guard') return [...outs.values()].some(Boolean);
    return true;
  }
  run(plan.steps);
  return found;
}

/**
 * Paths that end without telling the requester. A decline or lapse without a block of its own tells them by itself.
 * Told-ness is a set of two possibilities at each point: some path has told, some path has not.
 */
export function untold(plan: Plan): Finding[] {
  const found: Finding[] = [];
  type Told = { yes: boolean; no: boolean };
  const none: Told = { yes: false, no: false };
  const merge = (a: Told, b: Told): Told => ({ yes: a.yes || b.yes, no: a.no || b.no });

  const run = (block: Block, before: Told): Told => block.reduce((told, step) => after(step, told), before);
  function after(step: Step, told: Told): Told {
    switch (step.kind) {
      case 'tell':
        return step.to?.ref === 'request.requester' ? { yes: told.yes || told.no, no: false } : told;
      case 'finish':
        if (told.no)
          found.push(
            warn(step, {
              ...untoldWords(`end at “${step.name}”`),
              mend: 'Put a Tell to the requester before it.',
              fix: tellFix(plan, { before: step.id }),
            }),
          );
        return none;
      case 'gate': {
        const ways = [run(step.approved ?? [], told), ...[step.declined, step.lapsed].flatMap((b) => (b ? [run(b, told)] : []))];
        return ways.reduce(merge);
      }
      case 'choose':
        return [...branches(step).map((b) => run(b.block, told)), ...(step.otherwise ? [] : [told])].reduce(merge, none);
      case 'together': {
        const outs = step.branches.map((b) => run(b.block, told));
        if (outs.length === 0) return told;
        // With all branches joined it is enough that one of them tells.
        return step.join === 'all' && outs.some((o) => o.yes && !o.no) ? { yes: true, no: false } : outs.reduce(merge, none);
      }
      case 'forEach':
        return merge(told, run(step.body, told));
      case 'repeat':
        return run(step.body, told);
      case 'guard':
        return [run(step.body, told), run(step.remedy, told), ...(step.late ? [run(step.late, told)] : [])].reduce(merge, none);
      default:
        return told;
    }
  }
  const end = run(plan.steps, { yes: false, no: true });
  const last = plan.steps.at(-1);
  if (end.no && last)
    found.push(
      warn(last, {
        ...untoldWords('reach the end of the plan'),
        mend: 'Put a Tell to the requester before the end.',
        fix: tellFix(plan, { after: last.id }),
      }),
    );
  return found;
}
const untoldWords = (how: string) => ({ code: 'untold' as const, sentence: `A request can ${how} without its requester having been told.` });
const tellFix = (plan: Plan, at: { before: string } | { after: string }): NonNullable<Finding['fix']> => {
  const tell = newStep(plan, 'tell') as StepOf<'tell'>;
  const insert: Step = {
    ...tell,
    subject: [[{ text: 'Your request ' }, { ref: 'request.number' }]],
    body: [{ text: sentence('Your request has been dealt with.') }],
  };
  return { words: 'Put a Tell there', edit: { insert, at } };
};

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
  return found;
}
