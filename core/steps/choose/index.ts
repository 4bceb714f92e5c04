import { conditionFeel, conditionWords, analyseCoverage, type Domain, type Example, type Known, type Naming } from '../../conditions/index.ts';
import { unset, warn, type Finding } from '../finding.ts';
import type { Way } from '../flow.ts';
import { readCondition } from '../place.ts';
import type { Room } from '../room.ts';
import { holds, inBranch, takeBranch } from '../run/context.ts';
import type { Branch, Block } from '../step.ts';
import { chooseSchema, type Choose } from './settings.ts';

/** How often each case is taken: as stated; what is not stated shares the rest evenly. */
function ways(step: Choose): Way[] {
  const stated = step.cases.reduce((sum, c) => sum + (c.share ?? 0), 0);
  const open = step.cases.filter((c) => c.share === undefined).length + 1;
  const rest = Math.max(0, 100 - stated) / open;
  return [
    ...step.cases.map((c): Way => ({ id: c.id, block: c.block, share: c.share ?? rest, ...(c.when ? { when: c.when } : { never: true }) })),
    { id: 'otherwise', block: step.otherwise ?? [], share: rest },
  ];
}

/** The room of this kind; `room.ts` says what each member means. */
export const choose: Room<Choose> = {
  verb: 'Choose',
  does: 'Go one way or another',
  alsoCalled: ['if', 'branch', 'condition', 'case', 'decide', 'switch'],
  schema: chooseSchema,
  fresh: () => ({ cases: [{ id: 'case1', name: 'First case', block: [] }], otherwise: [] }),
  across: (step: Choose, change: (branch: Branch) => Block): Choose => ({
    ...step,
    cases: step.cases.map((c) => ({ ...c, block: change({ id: c.id, block: c.block }) })),
    ...(step.otherwise && { otherwise: change({ id: 'otherwise', block: step.otherwise }) }),
  }),
  head: (step, branch, naming) => {
    const found = step.cases.find((c) => c.id === branch);
    if (!found) return 'Otherwise';
    return found.when ? `${found.name}: ${conditionWords(found.when, naming)}` : found.name;
  },
  steers: true,
  flow: (step) => ({ is: 'one', ways: ways(step) }),
  reads: (step) => step.cases.flatMap((c) => readCondition(c.when, `Case “${c.name}”`)),
  conditions: (step) => step.cases.flatMap((c) => (c.when ? [{ when: c.when, setting: `The case “${c.name}”` }] : [])),
  lacks: (step) =>
    step.cases.length === 0
      ? [unset(step, 'any case')]
      : step.cases.flatMap((c) => (c.when ? [] : [unset(step, `a condition for the case “${c.name}”`)])),
  ranges,
  party: () => '',
  sentence: (step, naming) =>
    `Take the first case that holds: ${step.cases.map((c) => (c.when ? conditionWords(c.when, naming) : 'not set')).join('; ')}${step.otherwise ? '; otherwise the last way' : ''}.`,
  settle: (context, step, activity, scope) => {
    if (!activity.lanes) {
      const found = step.cases.find((c) => c.when && holds(context, scope, c.when));
      takeBranch(context, step, activity, scope, found?.id ?? 'otherwise');
    }
    return inBranch(context, step, activity, scope);
  },
  endsWhenTaken: true,
  bpmn: (step, from, write) => {
    const node = write.simple('bpmn:ExclusiveGateway', step, from);
    const ends = step.cases.map((c) => write.block(c.block, { node, when: c.when ? conditionFeel(c.when) : 'false', name: c.name }));
    ends.push(write.block(step.otherwise ?? [], { node, fallback: true, name: 'otherwise' }));
    return write.merge(write.idOf(step, '_join'), ends);
  },
};

/** Cases that are never taken, that leave nothing to choose, that overlap or leave a gap; each with an example. */
function ranges(step: Choose, domain: (ref: string) => Domain | undefined, naming: Naming, given: Known[]): Finding[] {
  const words = (example: Example) =>
    Object.entries(example)
      .map(([ref, v]) => conditionWords(v === null ? { not: { has: { ref } } } : { compare: 'is', left: { ref }, right: { literal: v } }, naming))
      .join(' and ');
  const found: Finding[] = [];
  const seen = analyseCoverage(
    step.cases.map((c) => c.when),
    domain,
    given,
  );
  if (!seen) return [];
  step.cases.forEach((c, i) => {
    if (!c.when || seen.first[i]) return;
    const fix = { words: `Remove the case “${c.name}”`, edit: { replace: { ...step, cases: step.cases.toSpliced(i, 1) } } };
    const sentence = seen.possible[i]
      ? `The case “${c.name}” of “${step.name}” is never taken: the cases above it take everything it would.`
      : `The case “${c.name}” of “${step.name}” can never hold.`;
    found.push(warn(step, { code: 'never-holds', sentence, mend: 'Correct its condition, move it up, or remove it.', fix }));
  });
  if (step.cases.length === 1 && step.cases[0]?.when && seen.always[0])
    found.push(
      warn(step, {
        code: 'always-holds',
        sentence: `The case “${step.cases[0].name}” of “${step.name}” always holds, so there is nothing to choose.`,
        mend: 'Correct the condition, or take the steps out of the choice.',
      }),
    );
  if (!step.otherwise && seen.gap) {
    const sentence = `“${step.name}” has no case when ${words(seen.gap)}, and nothing for otherwise; the request would go on without any of them.`;
    found.push(
      warn(step, {
        code: 'gap',
        sentence,
        mend: 'Add a case, or say what happens otherwise.',
        fix: { words: 'Add an otherwise', edit: { replace: { ...step, otherwise: [] } } },
      }),
    );
  }
  for (const o of seen.overlaps) {
    const [a, b] = [step.cases[o.a]!, step.cases[o.b]!];
    if (!seen.first[o.a] || !seen.first[o.b]) continue;
    found.push(
      warn(step, {
        code: 'overlap',
        sentence: `“${a.name}” and “${b.name}” of “${step.name}” both hold when ${words(o.example)}; then “${a.name}” is taken.`,
        mend: 'Leave it so if that is meant, or make the conditions exclude each other.',
      }),
    );
  }
  return found;
}
