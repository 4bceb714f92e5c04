import { analyseCoverage, mismatches, type Condition, type Domain, type Known, type Naming } from '../conditions/index.ts';
import { roomOf, stop, warn, type Finding, type Places, type Step } from '../steps/index.ts';

import type { Checked } from './family.ts';

/** Conditions that compare what cannot be compared; of the others those that never or always hold, overlap or leave a gap. */
export const conditions = ({ tested, naming, given }: Checked): Finding[] =>
  tested.flatMap(({ step, here }) => {
    const wrong = conditionFindings(step, here);
    return wrong.length > 0 ? wrong : checkRanges(step, here, naming, given.get(step.id) ?? []);
  });

/** The conditions a step tests, each with the words for where it stands. */
export const conditionsOf = (step: Step): { when: Condition; setting: string }[] => roomOf(step).conditions?.(step) ?? [];

/** Comparisons that cannot be told: of things of different kinds, of lists, or by an order that the kind has not. */
const conditionFindings = (step: Step, here: Places): Finding[] =>
  conditionsOf(step).flatMap(({ when, setting }) =>
    mismatches(when, here).map((wrong) =>
      stop(step, { code: 'wrong-type', sentence: `${setting} of “${step.name}” ${wrong}.`, mend: 'Compare it with a value of its own kind.' }),
    ),
  );

/** What the places can hold, as far as conditions can be looked through. */
export const domainOf =
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
function checkRanges(step: Step, here: Places, naming: Naming, given: Known[]): Finding[] {
  const { ranges } = roomOf(step);
  if (ranges) return ranges(step, domainOf(here), naming, given);
  return conditionsOf(step).flatMap(({ when, setting }) => {
    const seen = analyseCoverage([when], domainOf(here), given);
    if (!seen || (seen.possible[0] && !seen.always[0])) return [];
    const [code, words] = seen.possible[0] ? (['always-holds', 'always holds'] as const) : (['never-holds', 'can never hold'] as const);
    return [warn(step, { code, sentence: `${setting} of “${step.name}” ${words}.`, mend: 'Correct the condition, or take it away.' })];
  });
}
