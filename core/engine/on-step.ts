import { setOwn } from '../boundary/index.ts';
import { isEmpty, type Value } from '../values/index.ts';
import { start } from './begin.ts';
import type { IgnoredReason } from './effect.ts';
import type { RunEvent } from './event.ts';
import { instead, repeatLate } from './flow.ts';
import { askAgainWhom, changeAsks, closeGate, openGate, remindApprovers } from './gate.ts';
import { ended, fail, outputsOf, putOutputs, timed, type Go, type Here } from './go.ts';
import { lookedUp, provisioned, remind, setOutputs } from './simple.ts';

/** The events that are for one step. */
export type OnStep = Exclude<RunEvent, { type: 'begin' | 'withdrawn' | 'added' }>;

/** Takes an event into the step it is for. */
export function applyTo(go: Go, here: Here, event: OnStep): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  switch (event.type) {
    case 'found':
      if (activity.phase === 'refinding' && step.kind === 'gate') {
        changeAsks(go, { step, activity, scope }, event);
        return undefined;
      }
      if (activity.phase !== 'finding') return 'not-open';
      activity.phase = 'inside';
      if (step.kind === 'gate') openGate(go, { step, activity, scope }, event);
      if (step.kind === 'find') lookedUp(go, step, activity, scope, event.people);
      return undefined;
    case 'decided':
      return decided(go, here, event);
    case 'sentBack':
      return sentBack(go, here, event);
    case 'resubmitted':
      return resubmitted(go, here, event);
    case 'answered':
      if (activity.phase !== 'calling' || step.kind !== 'provision') return 'not-open';
      putOutputs(scope, step.id, event.outputs);
      provisioned(go, step, activity, event.changed ?? true, event.outputs);
      ended(go, activity, 'done', event.outputs);
      return undefined;
    case 'callFailed':
      if (activity.phase !== 'calling') return 'not-open';
      fail(go, scope, activity, event.cause);
      return undefined;
    case 'taskDone':
      if (activity.phase !== 'working') return 'not-open';
      setOutputs(scope, step.id, { ...event.values, doneBy: { person: event.person }, doneAt: go.now });
      go.effects.push({ effect: 'closeTask', key: activity.key, result: 'done', by: event.person, values: event.values });
      ended(go, activity, 'done', outputsOf(scope, step.id));
      return undefined;
    case 'replied':
      if (activity.phase !== 'answering') return 'not-open';
      setOutputs(scope, step.id, event.values);
      go.effects.push({ effect: 'closeQuestion', key: activity.key, result: 'answered', values: event.values });
      if (timed(step)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
      ended(go, activity, 'done', outputsOf(scope, step.id));
      return undefined;
    case 'staffChanged':
      if (step.kind !== 'gate' || activity.phase !== 'asking') return 'not-open';
      askAgainWhom(go, step, activity, scope);
      return undefined;
    case 'timer':
      return timer(go, here, event.name);
    case 'retried':
      activity.round = (activity.round ?? 0) + 1;
      delete activity.cause;
      delete activity.list;
      go.effects.push({ effect: 'retry', key: activity.key });
      start(go, step, activity, scope);
      return undefined;
    case 'skipped':
      // Nothing passes a gate but an approval.
      if (step.kind === 'gate') return 'not-allowed';
      ended(go, activity, 'skipped', {}, { note: event.comment });
      return undefined;
    case 'takenOver':
      if (step.kind === 'gate') return 'not-allowed';
      setOutputs(scope, step.id, event.outputs);
      if (step.kind === 'provision') provisioned(go, step, activity, true, event.outputs);
      ended(go, activity, 'takenOver', event.outputs, { note: event.comment });
      return undefined;
  }
}

// A gate's events

function openAsk(go: Go, here: Here, person: string) {
  const { activity } = here;
  if (activity.phase !== 'asking') return 'not-open' as const;
  // The timer that closes the gate may come a little after its instant; what is decided then is late all the same.
  if (activity.lapsesAt !== undefined && go.now >= activity.lapsesAt) return 'late' as const;
  const ask = activity.asks?.find((a) => a.person === person && !a.waits);
  if (!ask) return 'not-asked' as const;
  return ask.decision ? ('decided-already' as const) : ask;
}

function decided(go: Go, here: Here, event: Extract<RunEvent, { type: 'decided' }>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (step.kind !== 'gate') return 'not-open';
  const ask = openAsk(go, here, event.person);
  if (typeof ask === 'string') return ask;
  ask.decision = event.decision;
  // What the corrections hide is empty from now on; nothing else but what the gate opens is changed.
  correct(
    go,
    event.person,
    Object.fromEntries(Object.entries(event.corrections ?? {}).filter(([id, v]) => v === null || step.corrects?.includes(id))),
  );
  setOutputs(scope, step.id, { decidedBy: { person: event.person }, comment: isEmpty(event.comment) ? null : event.comment });
  go.effects.push({ effect: 'decision', key: activity.key, person: event.person, decision: event.decision, comment: event.comment });
  return undefined;
}

/** Answers corrected on the way are a new version; values are read when used, so what follows sees it. */
function correct(go: Go, by: string, changed: Record<string, Value>): void {
  if (Object.keys(changed).length === 0) return;
  for (const [id, value] of Object.entries(changed)) setOwn(go.state.answers, id, value);
  go.effects.push({ effect: 'answers', by, changed });
}

function sentBack(go: Go, here: Here, event: Extract<RunEvent, { type: 'sentBack' }>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (step.kind !== 'gate' || !step.sendBack) return 'not-allowed';
  const ask = openAsk(go, here, event.person);
  if (typeof ask === 'string') return ask;
  activity.phase = 'returned';
  delete activity.asks;
  go.effects.push({ effect: 'closeGate', key: activity.key, result: 'returned', decidedBy: event.person });
  if (timed(step)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  setOutputs(scope, step.id, { comment: event.comment });
  const question = { text: [[{ text: event.comment }]], values: {} };
  go.effects.push({ effect: 'openQuestion', key: activity.key, to: go.state.request!.requester.person, name: step.name, question });
  return undefined;
}

/** The corrected request meets the gate as a new one: approvers are looked up and asked afresh. */
function resubmitted(go: Go, here: Here, event: Extract<RunEvent, { type: 'resubmitted' }>): IgnoredReason | undefined {
  const { activity, lane } = here;
  if (activity.phase !== 'returned') return 'not-open';
  if (event.person !== go.state.request?.requester.person) return 'not-yours';
  // A whole form was sent: what it does not show any more is empty.
  const hidden = Object.keys(go.state.answers).filter((id) => !Object.hasOwn(event.answers, id));
  correct(go, event.person, { ...Object.fromEntries(hidden.map((id) => [id, null])), ...event.answers });
  go.effects.push({ effect: 'closeQuestion', key: activity.key, result: 'answered', values: event.answers });
  ended(go, activity, 'returned');
  delete lane.current;
  return undefined;
}

function timer(go: Go, here: Here, name: string): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  const { phase } = activity;
  if (step.kind === 'gate' && phase === 'asking') {
    // Gates opened before reminders were each approver's own have one timer for all.
    if (name === 'remind') remindApprovers(go, step, activity, () => true);
    else if (name.startsWith('remind:')) remindApprovers(go, step, activity, (person) => name === `remind:${person}`);
    if (name === 'lapse') closeGate(go, step, activity, scope, 'lapsed');
    return undefined;
  }
  if (step.kind === 'askBack' && phase === 'answering' && name === 'remind') {
    remind(go, step, activity);
    return undefined;
  }
  if (step.kind === 'pause' && phase === 'pausing') {
    ended(go, activity, 'done');
    return undefined;
  }
  if (step.kind === 'repeat' && name === 'again' && phase === 'between') {
    activity.phase = 'inside';
    return undefined;
  }
  if (step.kind === 'repeat' && name === 'deadline' && (phase === 'between' || phase === 'inside')) {
    repeatLate(go, step, activity, scope);
    return undefined;
  }
  if (step.kind === 'guard' && name === 'deadline' && phase === 'inside' && activity.lanes?.[0]?.id === 'body') {
    instead(go, step, activity, scope, step.late ? 'late' : 'remedy');
    return undefined;
  }
  return 'not-open';
}
