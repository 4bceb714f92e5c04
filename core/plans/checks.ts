import { minutesWords, workingMinutes } from '../calendar/index.ts';
import { conditionReferences, type Known } from '../conditions/index.ts';
import type { Form } from '../forms/index.ts';
import {
  namingOf,
  roomOf,
  stop,
  warn,
  type Block,
  type Catalogue,
  type Finding,
  type Place,
  type Places,
  type Reading,
  type Step,
  type Way,
} from '../steps/index.ts';
import { branches, flowOf, reopens, walk } from './blocks.ts';
import { conditionFindings, conditionsOf } from './check-conditions.ts';
import { checkForm } from './check-form.ts';
import { checkRanges, circles, unreached } from './check-paths.ts';
import { ungated, untold } from './check-ways.ts';
import { freeName } from './edit.ts';
import { readsOf, startPlaces, sureUnder, walkPlaces } from './places.ts';
import type { Plan } from './plan.ts';
import { analyseTime } from './timing.ts';

/** Everything the check finds in a form and its plan, in reading order. `promise`: the promised working time, ISO 8601. */
export function checkItem(form: Form, plan: Plan, catalogue: Catalogue, promise?: string): Finding[] {
  return [...checkForm(form), ...checkPlan(plan, startPlaces(form), catalogue), ...checkPromise(plan, promise, catalogue)];
}

/** What the check finds in a plan, or in the inside of a part, whose steps begin with the places of `start`. */
export function checkPlan(plan: Plan, start: Places, catalogue: Catalogue): Finding[] {
  const byStep: Finding[] = [];
  const reads: { step: Step; read: Reading; place: Place | undefined }[] = [];
  const ranges: { step: Step; here: Places }[] = [];
  const given = givenConditions(plan);
  const { anywhere } = walkPlaces(plan.steps, start, catalogue, (step, here, when) => {
    // What a repeat reads, it reads when its body is over.
    if (testsAfterRound(step) !== (when === 'test')) return;
    const seen = new Set<string>();
    for (const read of readsOf(step, catalogue)) {
      const place = here.get(read.ref);
      const certain = place?.always || (read.under !== undefined && sureUnder(here, read.under).includes(read.ref));
      if (place && !place.secret && (!read.needed || certain)) continue;
      if (seen.has(read.ref + read.setting)) continue;
      seen.add(read.ref + read.setting);
      reads.push({ step, read, place });
    }
    const conditions = conditionsOf(step);
    if (conditions.length === 0) return;
    const known = given.get(step.id) ?? [];
    const refs = new Set([...conditions.map((c) => c.when), ...known.map((k) => k.when)].flatMap(conditionReferences));
    // Only what the conditions read is kept for later: copying all places for every step would cost.
    const kept = new Map([...refs].flatMap((ref) => (here.has(ref) ? [[ref, here.get(ref)!] as const] : [])));
    ranges.push({ step, here: kept });
  });
  const naming = namingOf(anywhere, catalogue);
  const names = new Set<string>();
  for (const { step } of walk(plan.steps)) {
    const key = step.name.trim().toLowerCase();
    if (names.has(key)) {
      const name = freeName(step.name, new Set([...walk(plan.steps)].map((w) => w.step.name)));
      byStep.push(
        warn(step, {
          code: 'name-twice',
          sentence: `Two steps are called “${step.name}”.`,
          mend: 'Rename one, so that traces and messages tell them apart.',
          fix: { words: `Call it “${name}”`, edit: { replace: { ...step, name } } },
        }),
      );
    }
    names.add(key);
    byStep.push(...(roomOf(step).lacks?.(step, anywhere, catalogue) ?? []));
  }
  for (const { step, read, place } of reads) byStep.push(readFinding(step, read, place, anywhere));
  for (const { step, here } of ranges) {
    const wrong = conditionFindings(step, here);
    byStep.push(...wrong, ...(wrong.length ? [] : checkRanges(step, here, naming, given.get(step.id) ?? [])));
  }
  const empty: Finding[] =
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
  const order = new Map([...walk(plan.steps)].map((w, i) => [w.step.id, i]));
  const paths = [...unreached(plan, catalogue), ...untold(plan), ...ungated(plan, catalogue)];
  return [...empty, ...byStep, ...circles(plan.steps, catalogue), ...paths].sort(
    (a, b) => (order.get(a.step ?? '') ?? -1) - (order.get(b.step ?? '') ?? -1),
  );
}

function readFinding(step: Step, read: Reading, place: Place | undefined, anywhere: Places): Finding {
  if (!place) {
    if (read.ref.startsWith('unbound.'))
      return stop(step, {
        code: 'unknown-reference',
        sentence: `${read.setting} of “${step.name}” used a value of the item it was copied from (${read.ref.slice(8)}); here it is bound to nothing.`,
        mend: 'Pick a value of this item.',
      });
    const later = anywhere.get(read.ref);
    return stop(step, {
      code: 'unknown-reference',
      sentence: later
        ? `${read.setting} of “${step.name}” uses “${later.label}” of “${later.source}”, which is not there at this point.`
        : `${read.setting} of “${step.name}” uses a value that does not exist any more (${read.ref}).`,
      mend: 'Pick a value that exists at this point.',
    });
  }
  if (place.secret) {
    return stop(step, {
      code: 'secret',
      sentence: `${read.setting} of “${step.name}” would show the secret “${place.label}” of “${place.source}”.`,
      mend: 'A secret can only go into a sealed note; take it out here.',
    });
  }
  const sentence = `${read.setting} of “${step.name}” uses “${place.label}” of “${place.source}”, which may have no value here.`;
  return (read.inText ? warn : stop)(step, {
    code: 'may-have-no-value',
    sentence,
    mend: place.ref.startsWith('form.')
      ? 'Make the field required, or do this only in a case where it has a value.'
      : 'Do this only in a case where it has a value.',
  });
}

/** What a step tests, it tests when a round of its body is over. */
const testsAfterRound = (step: Step): boolean => {
  const flow = flowOf(step);
  return flow.is === 'rounds' && flow.rows === undefined;
};

/** For each step the conditions that hold wherever it is reached: the case it stands in, and none of those above it. */
function givenConditions(plan: Plan): Map<string, Known[]> {
  const all = new Map<string, Known[]>();
  // Where approvers may correct answers, what held at the choice need not hold later.
  if (reopens(plan.steps)) return all;
  const visit = (block: Block, given: Known[]) => {
    for (const step of block) {
      if (given.length) all.set(step.id, given);
      const flow = flowOf(step);
      const ways = flow.is === 'one' ? flow.ways : branches(step);
      const above: Known[] = [];
      for (const way of ways) {
        const when = (way as Way).when;
        visit(way.block, [...given, ...above, ...(when ? [{ when, held: true }] : [])]);
        if (when) above.push({ when, held: false });
      }
    }
  };
  visit(plan.steps, []);
  return all;
}

function checkPromise(plan: Plan, promise: string | undefined, catalogue: Catalogue): Finding[] {
  if (promise === undefined) return [];
  const promised = workingMinutes(promise);
  const time = analyseTime(plan, promised, catalogue);
  const found: Finding[] = [];
  if (time.longest > promised) {
    found.push({
      code: 'promise',
      severity: 'warns',
      sentence: `The longest way is expected to take ${minutesWords(time.longest)}; promised are ${minutesWords(promised)}, ${minutesWords(time.longest - promised)} less.`,
      mend: 'Promise more, or make the steps on the longest way shorter.',
    });
  }
  for (const { step } of walk(plan.steps)) {
    const lapses = roomOf(step).lapsesAfter?.(step);
    if (lapses === undefined || workingMinutes(lapses) <= promised) continue;
    const over = workingMinutes(lapses) - promised;
    found.push(
      warn(step, {
        code: 'promise',
        sentence: `“${step.name}” waits up to ${minutesWords(workingMinutes(lapses))} before it lapses, ${minutesWords(over)} longer than the whole request is promised.`,
        mend: 'Let it lapse earlier, or promise more.',
      }),
    );
  }
  return found;
}

/** Those of the findings that stop publishing. */
export const stops = (findings: Finding[]): Finding[] => findings.filter((f) => f.severity === 'stops');
