import { analyseCoverage, type Condition, type Domain, type Known, type Naming } from '../conditions/index.ts';
import { areAlike, isEmpty, isOfType, isOrdered, isReference, rowType, typeWords } from '../values/index.ts';
import { roomOf, stop, warn, type Finding, type Place, type Places, type Step } from '../steps/index.ts';

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

/** What is wrong with a condition, as the end of a sentence. Places that do not exist are told elsewhere. */
export function mismatches(c: Condition, places: ReadonlyMap<string, Pick<Place, 'label' | 'type' | 'options'>>): string[] {
  if ('all' in c) return c.all.flatMap((x) => mismatches(x, places));
  if ('any' in c) return c.any.flatMap((x) => mismatches(x, places));
  if ('not' in c) return mismatches(c.not, places);
  if ('has' in c) return [];
  const left = places.get(c.left.ref);
  if (!left) return [];
  if (rowType(left.type)) return [`compares “${left.label}”, which is a list; ask whether it has a value`];
  if (c.compare !== 'is' && c.compare !== 'isNot' && !isOrdered(left.type))
    return [`asks whether “${left.label}” is more or less than something; a ${typeWords[left.type]} has no order`];
  if (isReference(c.right)) {
    const right = places.get(c.right.ref);
    return right && !areAlike(left.type, right.type)
      ? [`compares “${left.label}”, a ${typeWords[left.type]}, with “${right.label}”, a ${typeWords[right.type]}`]
      : [];
  }
  const { literal } = c.right;
  if (isEmpty(literal)) return [];
  if (!isOfType(literal, left.type)) return [`compares “${left.label}”, a ${typeWords[left.type]}, with something that is none`];
  if (left.options && (c.compare === 'is' || c.compare === 'isNot') && !left.options.some((o) => o.value === literal))
    return [`compares “${left.label}” with a choice that it does not offer`];
  return [];
}

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
