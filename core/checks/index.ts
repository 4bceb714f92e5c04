import type { Form } from '../forms/index.ts';
import { startPlaces, walk, type Plan } from '../plans/index.ts';
import { roomOf, type Catalogue, type Finding, type Places } from '../steps/index.ts';
import { ungated } from './agreed.ts';
import { walked } from './checked.ts';
import { conditions } from './conditions.ts';
import type { Family } from './family.ts';
import { checkForm } from './form.ts';
import { names } from './names.ts';
import { circles, closings, nothing, unreached } from './paths.ts';
import { checkPromise } from './promise.ts';
import { repeats } from './repeats.ts';
import { settings } from './settings.ts';
import { untold } from './told.ts';
import { values } from './values.ts';

export { checkForm } from './form.ts';
export { checkPrices } from './prices.ts';

/** The families of findings about a plan, in the order in which they are told of one step. */
const families: Family[] = [nothing, names, settings, values, conditions, circles, repeats, closings, unreached, untold, ungated];

/** Everything the check finds in a form and its plan, in reading order. `promise`: the promised working time, ISO 8601. */
export function checkItem(form: Form, plan: Plan, catalogue: Catalogue, promise?: string): Finding[] {
  const known = { ...catalogue, gone: goneFrom(form, plan) };
  return [
    ...checkForm(form, catalogue, openedBy(plan)),
    ...checkPlan(plan, startPlaces(form, known), known),
    ...checkPromise(plan, promise, catalogue),
  ];
}

/** The fields that steps of a plan open to others than whoever asks. */
const openedBy = (plan: Plan): ReadonlySet<string> => new Set([...walk(plan.steps)].flatMap(({ step }) => roomOf(step).opens?.(step) ?? []));

const goneFrom = (form: Form, plan: Plan): ReadonlyMap<string, string> =>
  new Map([
    ...(form.wereCalled ?? []).map((f) => [`form.${f.id}`, f.name] as const),
    ...(plan.wereCalled ?? []).map((s) => [`steps.${s.id}`, s.name] as const),
  ]);

/** What the check finds in a plan, or in the inside of a part, whose steps begin with the places of `start`. */
export function checkPlan(plan: Plan, start: Places, catalogue: Catalogue): Finding[] {
  const checked = walked(plan, start, catalogue);
  const order = new Map([...walk(plan.steps)].map((w, i) => [w.step.id, i]));
  const place = (f: Finding) => order.get(f.step ?? '') ?? -1;
  return families.flatMap((family) => family(checked)).sort((a, b) => place(a) - place(b));
}

/** Those of the findings that stop publishing. */
export const stops = (findings: Finding[]): Finding[] => findings.filter((f) => f.severity === 'stops');
