import { own } from '../../boundary/index.ts';
import { isReference } from '../../values/index.ts';
import { aboutSlot, actionOf, secretsOf, statedInputs, type ActionSpec, type Catalogue } from '../catalogue.ts';
import { inputFindings } from '../check.ts';
import { stop, unset, warn, type Finding } from '../finding.ts';
import { output, readOperands, type Places } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, personOf, putOutputs, valueOf, valuesOf, type RunContext, type Scope } from '../run/context.ts';
import type { Activity, Given } from '../run/state.ts';
import type { Value } from '../../values/index.ts';
import { givenWords, operandWords } from '../words.ts';
import { defaultRetries, Provision } from './settings.ts';

/** What a provision gave, for undo. The inputs are those of the moment of the call. What a closing did stays: it is how the request is wound up. */
const givenBy = (context: RunContext, step: Provision, a: Activity, outputs: Record<string, Value>): Given => ({
  key: a.key,
  round: roundOf(a),
  name: step.name,
  ...(step.undo && !context.state.ending && { undo: step.undo }),
  action: step.action ?? '',
  inputs: a.inputs ?? {},
  outputs,
});

/** What nothing takes back stays with whoever has it until somebody does it by hand. */
const keptForGood = (step: Provision, action: ActionSpec): Finding[] =>
  action.gives && (step.undo ?? action.undoneBy ?? 'none') === 'none'
    ? [
        warn(step, {
          code: 'not-taken-back',
          sentence: `Nothing takes back what “${step.name}” gives (${action.gives.kind}): when it is given back, somebody has a task for it.`,
          mend: 'Choose the action that undoes it, or leave it so if it is fetched by hand.',
        }),
      ]
    : [];

/** What is stated, with its values of now; what has none is not given. */
const inputsNow = (context: RunContext, scope: Scope, step: Provision): Record<string, Value> =>
  Object.fromEntries(Object.entries(valuesOf(context, scope, step.inputs)).filter(([, value]) => value !== null));

/** What an action is about is something that the action gave that it says; a field that offers other things has one refused after everybody has agreed. */
function aboutFindings(step: Provision, { about, label, system }: ActionSpec, catalogue: Catalogue, anywhere: Places): Finding[] {
  const operand = about && own(step.inputs, aboutSlot.name);
  const place = operand && isReference(operand) ? anywhere.get(operand.ref) : undefined;
  if (!about || place?.type !== 'holding' || place.gave === undefined || place.gave === about.of) return [];
  const given = (id: string) => {
    const action = actionOf(catalogue, id);
    return action ? `“${action.label}” of ${action.system}` : 'an action that is not there any more';
  };
  return [
    stop(step, {
      code: 'wrong-type',
      sentence: `“${step.name}” (“${label}” of ${system}) is about what ${given(about.of)} gave, and “${place.label}” is what ${given(place.gave)} gave.`,
      mend: 'Have the form ask for the other, or use another action.',
    }),
  ];
}

/** Whom the note is for is stated as an input is. */
const noteSlot = { name: 'note', label: 'Whom the sealed note is for', type: 'person', required: true } as const;

/** What is secret goes to somebody, or it is made for nobody. */
function noteFindings(step: Provision, action: ActionSpec, anywhere: Places): Finding[] {
  const secrets = secretsOf(action);
  if (step.note) return inputFindings(step, { note: step.note.to }, [noteSlot], anywhere);
  if (secrets.length === 0) return [];
  return [
    stop(step, {
      code: 'secret-for-nobody',
      sentence: `“${step.name}” gives a secret (${secrets.map((s) => s.label).join(', ')}), and nobody gets the sealed note that it goes into.`,
      mend: 'Say whom the sealed note is for.',
    }),
  ];
}

/** What is said is mirrored only where the system takes part in it. */
const mirrorFindings = (step: Provision, { label, system, exchanges }: ActionSpec): Finding[] =>
  step.mirrors && !exchanges
    ? [
        warn(step, {
          code: 'nothing-mirrored',
          sentence: `“${step.name}” is to mirror what is said about the request, and with “${label}” of ${system} nobody there can say anything.`,
          mend: 'Leave that out, or have an administrator say under Systems how people there are written to.',
        }),
      ]
    : [];
/** Which way what is said goes, as a sentence. */
const mirrorWords = (step: Provision, exchanges: ActionSpec['exchanges']): string => {
  if (!step.mirrors || !exchanges) return '';
  const comes = 'what people there say about it, who asked and the desk read here';
  return exchanges === 'here' ? ` Meanwhile ${comes}.` : ` Meanwhile people there read what is said about the request, and ${comes}.`;
};

/** What a system gives is given with the consent of whoever answers for it. */
const unownedFindings = (step: Provision, action: ActionSpec): Finding[] =>
  action.grants && action.unowned
    ? [
        stop(step, {
          code: 'nobody-consents',
          sentence: `“${step.name}” gives something of ${action.system}, and nobody answers for it who could consent.`,
          mend: `Have an administrator name the owners of ${action.system} under Systems.`,
        }),
      ]
    : [];

const roundOf = (a: Activity): number => a.round ?? 0;

/** Its answer may still come, and is waited for beside whatever else happens. */
const awaited = (context: RunContext, step: Provision, a: Activity): void =>
  void (context.state.cancelled ??= []).push(givenBy(context, step, a, {}));

function gave(context: RunContext, step: Provision, activity: Activity, outputs: Record<string, Value>, byHand = false): void {
  const given = { ...givenBy(context, step, activity, outputs), ...(byHand && { byHand }) };
  (context.state.given ??= []).push(given);
  context.effects.push({ effect: 'gave', given });
}

/** The room of this kind; `room.ts` says what each member means. */
export const provision: Room<Provision> = {
  verb: 'Provision',
  does: 'Change something in a system',
  toRequester: 'It is being set up',
  alsoCalled: ['account', 'access', 'system', 'call', 'grant', 'action', 'machine'],
  schema: () => Provision,
  fresh: () => ({ inputs: {} }),
  outputs: (step, catalogue) =>
    (actionOf(catalogue, step.action)?.outputs ?? []).map((o) => ({
      ...output(step, o.name, o.label, o.type, o.always),
      ...(o.secret && { secret: true }),
    })),
  reads: (step, catalogue) => {
    const slot = (name: string) => actionOf(catalogue, step.action)?.inputs.find((i) => i.name === name);
    return [
      // What an action can do without is left out where there is no value.
      ...Object.entries(step.inputs).flatMap(([name, o]) =>
        readOperands({ [name]: o }, () => slot(name)?.label ?? name).map((r) => ({ ...r, needed: slot(name)?.required ?? true })),
      ),
      ...(step.note ? readOperands({ note: step.note.to }, () => noteSlot.label) : []),
    ];
  },
  action: (step) => step.action,
  lacks: (step, anywhere, catalogue) => {
    if (!step.action) return [unset(step, 'an action')];
    const action = actionOf(catalogue, step.action);
    if (!action) {
      return [
        stop(step, {
          code: 'unknown-action',
          sentence: `“${step.name}” uses an action that no registered system offers (${step.action}).`,
          mend: 'Pick an action of a registered system.',
        }),
      ];
    }
    return [
      ...inputFindings(step, step.inputs, statedInputs(action), anywhere),
      ...noteFindings(step, action, anywhere),
      ...aboutFindings(step, action, catalogue, anywhere),
      ...unownedFindings(step, action),
      ...mirrorFindings(step, action),
      ...keptForGood(step, action),
    ];
  },
  party: (step, _, catalogue) => actionOf(catalogue, step.action)?.system ?? 'System not chosen',
  sentence: (step, naming, catalogue) => {
    const action = actionOf(catalogue, step.action);
    if (!action) return 'Change something in a system, not chosen yet.';
    const secrets = secretsOf(action)
      .map((x) => x.label.toLowerCase())
      .join(', ');
    const note = step.note && secrets ? ` What is secret (${secrets}) goes into a sealed note for ${operandWords(step.note.to, naming)}.` : '';
    return `In ${action.system}: ${action.label.toLowerCase()}${givenWords(step.inputs, statedInputs(action), naming)}.${note}${mirrorWords(step, action.exchanges)}`;
  },
  frozen: (step, catalogue) => {
    const undo = step.undo ?? actionOf(catalogue, step.action)?.undoneBy;
    return undo === undefined ? step : { ...step, undo };
  },
  thawed: ({ undo, ...step }, catalogue) => (undo === undefined || undo === actionOf(catalogue, step.action)?.undoneBy ? step : { ...step, undo }),
  inputs: (context, step, scope) => inputsNow(context, scope, step),
  start: (context, step, activity, scope) => {
    if (!step.action) return void fail(context, scope, activity, `“${step.name}” has no action set.`);
    const to = step.note && personOf(valueOf(context, scope, step.note.to));
    // A secret that nobody could be given is not made.
    if (step.note && to === undefined)
      return void fail(context, scope, activity, `There is nobody whom the sealed note of “${step.name}” could go to.`);
    activity.phase = 'calling';
    activity.inputs = inputsNow(context, scope, step);
    context.effects.push({
      effect: 'call',
      key: activity.key,
      action: step.action,
      inputs: activity.inputs,
      round: roundOf(activity),
      retries: step.retries ?? defaultRetries,
      ...(step.note && to !== undefined && { note: { to, openFor: step.note.openFor } }),
      ...(step.mirrors && { mirrors: true }),
    });
  },
  on: (context, { step, activity, scope }, event) => {
    if (event.type !== 'callFailed' && event.type !== 'answered') return 'not-open';
    // What was given up waiting for, and came before anybody did anything about it, is an answer as any other.
    const late = event.type === 'answered' && activity.phase === 'stuck';
    if ((activity.phase !== 'calling' && !late) || (event.round ?? roundOf(activity)) !== roundOf(activity)) return 'not-open';
    if (event.type === 'callFailed') {
      if (event.mayCome) awaited(context, step, activity);
      fail(context, scope, activity, event.cause);
    } else {
      putOutputs(scope, step.id, event.outputs);
      if (event.changed ?? true) gave(context, step, activity, event.outputs);
      ended(context, activity, 'done', event.outputs);
    }
    return undefined;
  },
  withdraw: (context, step, a) => {
    if (a.phase !== 'calling') return;
    context.effects.push({ effect: 'cancelCall', key: a.key });
    awaited(context, step, a);
  },
  doneByHand: (context, step, a, outputs) => gave(context, step, a, outputs, true),
  bpmn: (step, from, write) => write.simple('bpmn:ServiceTask', step, from),
};
