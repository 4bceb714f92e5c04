import { own, sameJson } from '../boundary/index.ts';
import { fieldType, missingFields, type Answers, type Form } from '../forms/index.ts';
import { walk, type Plan } from '../plans/index.ts';
import { isEmpty, isOfType } from '../values/index.ts';
import { advance } from './advance.ts';
import type { Effect, RunEvent } from './index.ts';
import { newState, type RunState } from './state.ts';

/** An item as a run goes through it. */
interface Gone {
  form: Form;
  plan: Plan;
}

/**
 * Whether a run can go over from one revision of its item to another, and on from where it stands: undefined, or a sentence that says
 * why not. It can where everything that has happened would have come to the same under both, event by event: what was asked, done,
 * told and kept, and what is open now. So what is replayed under the new plan is what is kept already. And its answers have to be
 * ones that the new form takes, and all that it wants.
 */
export function whyNotOver(before: Gone, after: Gone, events: readonly { event: RunEvent; at: string }[]): string | undefined {
  let [was, is]: [RunState, RunState] = [newState(), newState()];
  for (const { event, at } of events) {
    const [one, other] = [advance(before.plan, was, event, at), advance(after.plan, is, event, at)];
    const n = Math.max(one.effects.length, other.effects.length);
    for (let i = 0; i < n; i++)
      if (!sameJson(plain(one.effects[i]), plain(other.effects[i]))) return otherwise(before.plan, after.plan, one.effects[i], other.effects[i]);
    if (!sameJson(one.state, other.state)) return 'The plan has another shape where the request stands.';
    [was, is] = [one.state, other.state];
  }
  return formWants(after.form, was.answers);
}

/** What a step that has begun is called does not change what was done. */
const plain = (e: Effect | undefined): Effect | undefined => (e?.effect === 'began' ? { ...e, name: '' } : e);

/** Where two revisions part, in words. */
function otherwise(before: Plan, after: Plan, one: Effect | undefined, other: Effect | undefined): string {
  const [a, b] = [one && stepOf(one, before), other && stepOf(other, after)];
  if (a && a.id === b?.id) return `“${a.name}” went otherwise than it would in the new revision.`;
  if (a && b) return `“${a.name}” has begun where the new revision has “${b.name}”.`;
  if (b) return `“${b.name}” would have come before it.`;
  return a ? `“${a.name}” has begun, and has no place there in the new revision.` : 'The new revision would have gone another way.';
}

/** The step that an effect is of. */
function stepOf(effect: Effect, plan: Plan): { id: string; name: string } | undefined {
  const key = 'key' in effect ? effect.key : 'given' in effect ? effect.given.key : undefined;
  const id = key?.split('/').at(-1)!.replace(/#.*/, '');
  if (id === undefined) return undefined;
  const blocks = [plan.steps, ...Object.values(plan.parts ?? {}).map((p) => p.steps)];
  for (const block of blocks) for (const { step } of walk(block)) if (step.id === id) return step;
  return undefined;
}

/** What a form wants that these answers do not have, or have otherwise. */
function formWants(form: Form, answers: Answers): string | undefined {
  const [missing] = missingFields(form, answers);
  if (missing) return `The new form wants “${missing.label}”, which this request does not have.`;
  const wrong = form.fields.find((f) => {
    const value = own(answers, f.id);
    return value !== undefined && !isEmpty(value) && !isOfType(value, fieldType(f.kind));
  });
  return wrong && `“${wrong.label}” is of another kind in the new form.`;
}
