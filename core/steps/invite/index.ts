import { isInstant } from '../../calendar/index.ts';
import { isPerson, plainText, sentence, type Value } from '../../values/index.ts';
import { areWordless, isWordless, typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { inText, output, readOne, readPassages, readText } from '../place.ts';
import type { Room } from '../room.ts';
import {
  ended,
  fail,
  outputsOf,
  putOutputs,
  read,
  setOutputs,
  setTimer,
  snapshotOf,
  snapshotOfPassages,
  type RunContext,
  type Scope,
} from '../run/context.ts';
import type { Activity } from '../run/state.ts';
import { Invite } from './settings.ts';

const several = (n: number, one: string, more: string): string => (n === 1 ? one : `${n} ${more}`);

/** Everybody who is invited, each once. */
function invitedTo(context: RunContext, step: Invite, scope: Scope): string[] {
  const named = step.who.flatMap((w) => read(context, scope, w.ref) ?? []);
  return [...new Set(named.flatMap((p) => (isPerson(p) ? [p.person] : [])))];
}

/** Has a time found, after the one that did not suit where there was one, and those invited told of it. */
function arrange(context: RunContext, step: Invite, activity: Activity, scope: Scope, after?: string): void {
  const people = invitedTo(context, step, scope);
  if (people.length === 0) return void fail(context, scope, activity, `“${step.name}” has nobody to invite.`);
  const from = step.from && read(context, scope, step.from.ref);
  if (step.from && typeof from !== 'string') return void fail(context, scope, activity, `“${step.name}” is from a date on that has no value.`);
  activity.phase = 'calling';
  activity.invited = people.map((person) => ({ person }));
  context.effects.push({
    effect: 'invite',
    key: activity.key,
    round: activity.round ?? 0,
    people,
    title: snapshotOf(context, scope, step.title),
    body: snapshotOfPassages(context, scope, step.body),
    ...(step.place && !isWordless(step.place) && { place: snapshotOf(context, scope, step.place) }),
    minutes: step.minutes,
    window: {
      within: step.within,
      ...(typeof from === 'string' && { from }),
      ...(step.notice && { notice: step.notice }),
      ...(after !== undefined && { after }),
    },
    waits: step.waits !== undefined,
  });
}

/** It stands who comes: the plan goes on with that. */
function over(context: RunContext, step: Invite, activity: Activity, scope: Scope, note?: string): void {
  const who = (said: string): Value => (activity.invited ?? []).flatMap(({ person, says }) => (says === said ? [{ person }] : []));
  setOutputs(scope, step.id, { accepted: who('yes'), declined: who('no') });
  ended(context, activity, 'done', outputsOf(scope, step.id), note === undefined ? {} : { note });
}

/** The room of this kind; `room.ts` says what each member means. */
export const invite: Room<Invite> = {
  verb: 'Invite',
  does: 'Arrange a meeting',
  toRequester: 'A meeting is arranged',
  alsoCalled: ['meeting', 'appointment', 'calendar', 'invitation', 'schedule', 'free time', 'rsvp'],
  schema: () => Invite,
  fresh: () => ({ who: [], title: sentence(''), body: [{ text: sentence('') }], minutes: 30, within: 5, notice: 'PT4H' }),
  outputs: (step) => [
    output(step, 'begins', 'Begins', 'instant', true),
    output(step, 'ends', 'Ends', 'instant', true),
    ...(step.waits
      ? [output(step, 'accepted', 'Those who come', 'people', false), output(step, 'declined', 'Those who do not come', 'people', false)]
      : []),
  ],
  reads: (step) => [
    ...step.who.flatMap((w) => readOne(w.ref, 'Invited')),
    ...readOne(step.from?.ref, 'From'),
    ...inText([...readText(step.title, 'Title'), ...readText(step.place ?? [], 'Place'), ...readPassages(step.body, 'Words')]),
  ],
  conditions: (step) => step.body.flatMap((p) => (p.when ? [{ when: p.when, setting: 'A condition in the words' }] : [])),
  lacks: (step, anywhere) => [
    ...(step.who.length === 0 ? [unset(step, 'anyone to invite')] : []),
    ...step.who.flatMap((w) => typeFindings(step, 'Invited', w.ref, ['person', 'people'], anywhere)),
    ...typeFindings(step, 'From', step.from?.ref, ['date', 'instant'], anywhere),
    ...(isWordless(step.title) ? [unset(step, 'a title')] : []),
    ...(areWordless(step.body) ? [unset(step, 'words')] : []),
  ],
  party: (step, naming) => step.who.map((w) => naming.place(w.ref)).join(' and ') || 'Nobody yet',
  sentence: (step, naming) => {
    const who = step.who.map((w) => naming.place(w.ref)).join(' and ') || 'nobody yet';
    const from = step.from ? `from ${naming.place(step.from.ref)} on` : 'from then on';
    const again = step.waits?.again ? ` who cannot come is offered another time, up to ${several(step.waits.again, 'once', 'times')};` : '';
    return `Invite ${who} to “${plainText(step.title, naming.place)}”, ${step.minutes} minutes at the first time at which all are free ${from}, within ${several(step.within, 'that working day', 'working days')}${step.waits ? `;${again} wait until all have answered or it begins` : ''}.`;
  },
  start: (context, step, activity, scope) => arrange(context, step, activity, scope),
  on: (context, { step, activity, scope }, event) => {
    if (activity.phase === 'calling') {
      if ((event.type !== 'callFailed' && event.type !== 'answered') || (event.round ?? 0) !== (activity.round ?? 0)) return 'not-open';
      if (event.type === 'callFailed') return void fail(context, scope, activity, event.cause);
      const { begins } = event.outputs;
      if (typeof begins !== 'string' || !isInstant(begins)) return void fail(context, scope, activity, `Nobody said when “${step.name}” begins.`);
      putOutputs(scope, step.id, event.outputs);
      if (!step.waits) return void ended(context, activity, 'done', event.outputs);
      activity.phase = 'coming';
      setTimer(context, activity, 'begins', begins);
      return undefined;
    }
    if (activity.phase !== 'coming') return 'not-open';
    if (event.type === 'timer') return void over(context, step, activity, scope, 'It began before everybody had answered.');
    if (event.type !== 'coming' || (event.round ?? 0) !== (activity.round ?? 0)) return 'not-open';
    const one = activity.invited?.find((i) => i.person === event.person);
    if (!one) return 'not-asked';
    one.says = event.says;
    const moved = activity.count ?? 0;
    if (event.says === 'no' && moved < (step.waits?.again ?? 0)) {
      const after = String(outputsOf(scope, step.id)['ends']);
      activity.count = moved + 1;
      activity.round = (activity.round ?? 0) + 1;
      context.effects.push({ effect: 'cancelTimers', key: activity.key });
      arrange(context, step, activity, scope, after);
    } else if (activity.invited?.every((i) => i.says === 'yes' || i.says === 'no')) {
      context.effects.push({ effect: 'cancelTimers', key: activity.key });
      over(context, step, activity, scope);
    }
    return undefined;
  },
  withdraw: (context, _, a) => {
    if (a.phase === 'calling' || a.phase === 'coming') context.effects.push({ effect: 'callOff', key: a.key });
  },
  isTimed: (step) => step.waits !== undefined,
  bpmn: (step, from, write) => write.simple(step.waits ? 'bpmn:UserTask' : 'bpmn:SendTask', step, from),
};
