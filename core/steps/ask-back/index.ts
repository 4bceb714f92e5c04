import { plainText, sentence } from '../../values/index.ts';
import { isWordless, typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { fieldPlace, readOne, readText } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, outputsOf, personOf, read, readAs, snapshotOf, setOutputs, setTimerAfter, type RunContext } from '../run/context.ts';
import type { Activity } from '../run/state.ts';
import { AskBack } from './settings.ts';

/** Reminds of a question, and sets the next reminder while some are left. */
function remind(context: RunContext, step: AskBack, activity: Activity): void {
  const { reminders } = step;
  if (!reminders) return;
  const sent = (activity.count = (activity.count ?? 0) + 1);
  context.effects.push({ effect: 'remind', key: activity.key, people: [] });
  if (sent < reminders.times) setTimerAfter(context, activity, 'remind', { length: reminders.after, counted: 'working' });
}

/** The room of this kind; `room.ts` says what each member means. */
export const askBack: Room<AskBack> = {
  verb: 'Ask back',
  does: 'Ask the requester and wait; the clock is held',
  toRequester: 'You are asked something',
  alsoCalled: ['question', 'clarify', 'more information', 'ask the requester'],
  schema: () => AskBack,
  fresh: () => ({
    expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' },
    question: sentence(''),
    fields: [{ id: 'answer', kind: 'longText', label: 'Your answer', required: true }],
  }),
  asksRequester: (step) => (step.to ? [] : step.fields),
  outputs: (step) => step.fields.map((f) => fieldPlace(f, `steps.${step.id}.${f.id}`, step.name)),
  reads: (step) => [...readOne(step.to?.ref, 'To'), ...readText(step.question, 'Question')],
  lacks: (step, anywhere) => [
    ...(isWordless(step.question) ? [unset(step, 'a question')] : []),
    ...(step.fields.length === 0 ? [unset(step, 'a field for the answer')] : []),
    ...typeFindings(step, 'To', step.to?.ref, ['person'], anywhere),
  ],
  party: (step, naming) => (step.to ? naming.place(step.to.ref) : 'Requester'),
  sentence: (step, naming) =>
    `Ask ${step.to ? naming.place(step.to.ref) : 'the requester'} “${plainText(step.question, naming.place)}” and wait; the clock is held.`,
  inputs: (context, step, scope) => readAs(context, scope, 'to', step.to?.ref),
  start: (context, step, activity, scope) => {
    const to = step.to ? personOf(read(context, scope, step.to.ref)) : context.state.request!.requester.person;
    if (to === undefined) return void fail(context, scope, activity, `“${step.name}” has nobody to ask.`);
    activity.phase = 'answering';
    const question = snapshotOf(context, scope, step.question);
    context.effects.push({ effect: 'openQuestion', key: activity.key, to, name: step.name, question, fields: step.fields });
    if (step.reminders) setTimerAfter(context, activity, 'remind', { length: step.reminders.after, counted: 'working' });
  },
  on: (context, { step, activity, scope }, event) => {
    if (activity.phase !== 'answering') return 'not-open';
    if (event.type === 'timer' && event.name === 'remind') remind(context, step, activity);
    else if (event.type === 'replied') {
      setOutputs(scope, step.id, event.values);
      context.effects.push({ effect: 'closeQuestion', key: activity.key, result: 'answered', values: event.values });
      if (step.reminders) context.effects.push({ effect: 'cancelTimers', key: activity.key });
      ended(context, activity, 'done', outputsOf(scope, step.id));
    } else return 'not-open';
    return undefined;
  },
  withdraw: (context, _, a) => {
    if (a.phase === 'answering') context.effects.push({ effect: 'closeQuestion', key: a.key, result: 'withdrawn' });
  },
  isTimed: (step) => step.reminders !== undefined,
  bpmn: (step, from, write) => write.simple('bpmn:UserTask', step, from),
};
