import { walk, type Block, type Plan, type Step } from '../plans/index.ts';
import { isEmpty, type Value } from '../values/index.ts';
import { causeLimit } from './causes.ts';
import type { Effect, IgnoredReason } from './effect.ts';
import type { RunEvent } from './event.ts';
import { beginGuard, beginRepeat, choose, forEach, guard, instead, part, repeat, repeatLate, together } from './flow.ts';
import { beginGate, closeGate, decideGate, inBranch, openGate } from './gate.ts';
import {
  calendarOf,
  ended,
  fail,
  find,
  finish,
  outputsOf,
  read,
  rootScope,
  runaway,
  tellRequester,
  timed,
  valueOf,
  valuesOf,
  type Go,
  type Here,
  type Scope,
  type Settled,
} from './go.ts';
import {
  beginAskBack,
  beginFind,
  beginPause,
  beginProvision,
  beginTask,
  finishHere,
  lookedUp,
  mark,
  provisioned,
  remind,
  setOutputs,
  tell,
  workOutHere,
} from './simple.ts';
import { newLane, type Activity, type Lane, type RunState } from './state.ts';
import { beginUndo, lateAnswer, undoEvent } from './undo.ts';

/**
 * The meaning of a plan. Takes one event and gives the next state and what must be done about it.
 * Pure: `state` and `event` are left as they were. `now` is the ISO instant of the event.
 * An event that does not fit is answered with an `ignored` effect and changes nothing.
 */
export function advance(plan: Plan, state: RunState, event: RunEvent, now: string): { state: RunState; effects: Effect[] } {
  const next = structuredClone(state);
  const go: Go = { plan, state: next, now, calendar: calendarOf(next), effects: [], steps: 0, run: (b, l, s) => runBlock(go, b, l, s) };
  const ignored = apply(go, event);
  if (ignored) return { state, effects: [{ effect: 'ignored', reason: ignored }] };
  const wasOpen = state.status !== 'ended';
  if (go.state.status === 'open') settle(go);
  if (wasOpen) beginUndo(go);
  return { state: go.state, effects: go.effects };
}

/** The state after a list of events, from nothing. */
export function replay(plan: Plan, events: { event: RunEvent; at: string }[], from: RunState): RunState {
  return events.reduce((state, e) => advance(plan, state, e.event, e.at).state, from);
}

/** Moves everything on as far as it goes: what was added first, since milestones and the end wait for it. */
function settle(go: Go): void {
  const { state } = go;
  for (const addition of state.additions ?? []) {
    const settled = runBlock(go, [addition.step], addition.lane, rootScope(state));
    if (settled === 'over') return;
    if (settled === 'done') state.additions = state.additions!.filter((a) => a !== addition);
  }
  if (state.additions?.length === 0) delete state.additions;
  if (runBlock(go, go.plan.steps, state.root, rootScope(state)) !== 'done' || state.status !== 'open') return;
  if (!state.additions) finish(go, 'fulfilled');
}

/** Takes the event into the activity it is for; the settling afterwards moves the plan on. */
function apply(go: Go, event: RunEvent): IgnoredReason | undefined {
  const { state } = go;
  if (event.type === 'begin') return begin(go, event);
  if (event.type === 'answered' && lateAnswer(go, event.key, event.outputs, event.changed ?? true)) return undefined;
  const undoing = state.undoing?.current;
  if (undoing && 'key' in event && event.key === undoing.key)
    return undoEvent(go, undoing, event as Parameters<typeof undoEvent>[2]) ? undefined : 'not-open';
  if (state.status !== 'open') return state.status === 'ended' ? 'ended' : 'not-open';
  if (event.type === 'withdrawn') {
    if (event.person !== state.request?.requester.person) return 'not-yours';
    if (state.noReturn) return 'no-return';
    finish(go, 'withdrawn', 'Withdrawn by the requester.');
    return undefined;
  }
  if (event.type === 'added') return add(go, event);
  const here = find(go, event.key);
  if (!here) return 'not-open';
  return byHand.has(event.type) && here.activity.phase !== 'stuck' ? 'not-open' : applyTo(go, here, event);
}
const byHand = new Set(['retried', 'skipped', 'takenOver']);

function begin(go: Go, event: Extract<RunEvent, { type: 'begin' }>): IgnoredReason | undefined {
  const { state } = go;
  if (state.status !== 'new') return 'begun-already';
  state.status = 'open';
  const { requester, number, zone, causes } = event;
  state.request = { requester, number, zone, opened: go.now, ...(causes && { causes }) };
  state.answers = event.answers;
  go.calendar = calendarOf(state);
  if ((causes?.length ?? 0) >= causeLimit) {
    const reason = `Cut: ${causeLimit} requests began each other in a chain (${[...new Set(causes)].join(', ')}).`;
    tellRequester(go, 'begin', 'failed', reason);
    finish(go, 'failed', reason);
  }
  return undefined;
}

type OnStep = Exclude<RunEvent, { type: 'begin' | 'withdrawn' | 'added' }>;

function applyTo(go: Go, here: Here, event: OnStep): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  switch (event.type) {
    case 'found':
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
      scope.outputs[step.id] = event.outputs;
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

function openAsk(here: Here, person: string) {
  const { activity } = here;
  if (activity.phase !== 'asking') return 'not-open' as const;
  const ask = activity.asks?.find((a) => a.person === person && !a.waits);
  if (!ask) return 'not-asked' as const;
  return ask.decision ? ('decided-already' as const) : ask;
}

function decided(go: Go, here: Here, event: Extract<RunEvent, { type: 'decided' }>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (step.kind !== 'gate') return 'not-open';
  const ask = openAsk(here, event.person);
  if (typeof ask === 'string') return ask;
  ask.decision = event.decision;
  correct(go, event.person, Object.fromEntries(Object.entries(event.corrections ?? {}).filter(([id]) => step.corrects?.includes(id))));
  setOutputs(scope, step.id, { decidedBy: { person: event.person }, comment: isEmpty(event.comment) ? null : event.comment });
  go.effects.push({ effect: 'decision', key: activity.key, person: event.person, decision: event.decision, comment: event.comment });
  return undefined;
}

/** Answers corrected on the way are a new version; values are read when used, so what follows sees it. */
function correct(go: Go, by: string, changed: Record<string, Value>): void {
  if (Object.keys(changed).length === 0) return;
  Object.assign(go.state.answers, changed);
  go.effects.push({ effect: 'answers', by, changed });
}

function sentBack(go: Go, here: Here, event: Extract<RunEvent, { type: 'sentBack' }>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (step.kind !== 'gate' || !step.sendBack) return 'not-allowed';
  const ask = openAsk(here, event.person);
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
  correct(go, event.person, event.answers);
  go.effects.push({ effect: 'closeQuestion', key: activity.key, result: 'answered', values: event.answers });
  ended(go, activity, 'returned');
  delete lane.current;
  return undefined;
}

function timer(go: Go, here: Here, name: string): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  const { phase } = activity;
  if (step.kind === 'gate' && phase === 'asking') {
    const silent = (activity.asks ?? []).filter((a) => !a.decision && !a.waits).map((a) => a.person);
    if (name === 'remind') remind(go, step, activity, silent);
    if (name === 'lapse') closeGate(go, step, activity, scope, 'lapsed');
    return undefined;
  }
  if (step.kind === 'askBack' && phase === 'answering' && name === 'remind') {
    remind(go, step, activity, []);
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

/** A gate or task added by an agent: it opens at once, and the milestone it belongs to waits for it. */
function add(go: Go, event: Extract<RunEvent, { type: 'added' }>): IgnoredReason | undefined {
  const { state } = go;
  if (event.to !== 'end' && (state.reached?.includes(event.to) || !isMilestone(go.plan.steps, event.to))) return 'milestone-ended';
  if (state.begun[event.step.id] !== undefined || state.additions?.some((a) => a.step.id === event.step.id)) return 'begun-already';
  (state.additions ??= []).push({ to: event.to, step: event.step, lane: newLane('added') });
  return undefined;
}
const isMilestone = (steps: Block, id: string): boolean => [...walk(steps)].some(({ step }) => step.kind === 'mark' && step.id === id);

// Settling

/** Runs a block until it waits, is done, fails, or the run is over. Re-entrant: it picks up where the lane stands. */
function runBlock(go: Go, block: Block, lane: Lane, scope: Scope): Settled {
  while (lane.at < block.length) {
    const step = block[lane.at]!;
    if (!lane.current) {
      if (runaway(go)) return 'over';
      lane.current = beginStep(go, step, scope);
    }
    const settled = settleStep(go, step, lane.current, scope);
    if (settled !== 'done') return go.state.status === 'ended' ? 'over' : settled;
    delete lane.current;
    lane.at++;
  }
  return 'done';
}

function beginStep(go: Go, step: Step, scope: Scope): Activity {
  const name = scope.prefix + step.id;
  const occurrence = (go.state.begun[name] = (go.state.begun[name] ?? 0) + 1);
  const activity: Activity = { key: `${name}#${occurrence}`, step: step.id, phase: 'inside' };
  go.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs: inputsOf(go, step, scope) });
  start(go, step, activity, scope);
  return activity;
}

/** The first move of a step, or of a stuck step tried again. Automatic steps make it when they are settled. */
function start(go: Go, step: Step, activity: Activity, scope: Scope): void {
  activity.phase = 'inside';
  if (step.kind === 'gate') beginGate(go, step, activity, scope);
  if (step.kind === 'provision') beginProvision(go, step, activity, scope);
  if (step.kind === 'task') beginTask(go, step, activity, scope);
  if (step.kind === 'askBack') beginAskBack(go, step, activity, scope);
  if (step.kind === 'find') beginFind(go, step, activity, scope);
  if (step.kind === 'pause') beginPause(go, step, activity, scope);
  if (step.kind === 'repeat') beginRepeat(go, step, activity);
  if (step.kind === 'guard') beginGuard(go, step, activity);
}

function settleStep(go: Go, step: Step, activity: Activity, scope: Scope): Settled {
  if (go.state.status === 'ended') return 'over';
  switch (activity.phase) {
    case 'settled':
      return 'done';
    case 'failed':
      return { failed: activity };
    case 'asking':
      return step.kind === 'gate' ? decideGate(go, step, activity, scope) : 'waiting';
    case 'held':
      return step.kind === 'mark' ? mark(go, step, activity) : 'waiting';
    case 'inside':
      break;
    default:
      return 'waiting';
  }
  switch (step.kind) {
    case 'gate':
      return inBranch(go, step, activity, scope);
    case 'choose':
      return choose(go, step, activity, scope);
    case 'together':
      return together(go, step, activity, scope);
    case 'forEach':
      return forEach(go, step, activity, scope);
    case 'repeat':
      return repeat(go, step, activity, scope);
    case 'guard':
      return guard(go, step, activity, scope);
    case 'part':
      return part(go, step, activity, scope);
    case 'tell':
      return tell(go, step, activity, scope);
    case 'workOut':
      return workOutHere(go, step, activity, scope);
    case 'mark':
      return mark(go, step, activity);
    case 'finish':
      return finishHere(go, step, activity, scope);
    default:
      return 'waiting';
  }
}

/** What a step reads when it begins, for the trace. */
function inputsOf(go: Go, step: Step, scope: Scope): Record<string, Value> {
  const at = (name: string, ref: string | undefined): Record<string, Value> => (ref === undefined ? {} : { [name]: read(go, scope, ref) ?? null });
  switch (step.kind) {
    case 'provision':
    case 'part':
      return valuesOf(go, scope, step.inputs);
    case 'tell':
    case 'askBack':
      return at('to', step.to?.ref);
    case 'forEach':
      return at('list', step.list?.ref);
    case 'task':
      return step.assignee && 'from' in step.assignee ? at('person', step.assignee.from.ref) : {};
    case 'gate': {
      const a = step.approvers;
      if (!a || a.from === 'people' || a.from === 'team') return {};
      if (a.from === 'policy') return Object.fromEntries(Object.entries(a.inputs).map(([name, o]) => [name, valueOf(go, scope, o)]));
      return a.from === 'ownersOf' ? at('group', a.group.ref) : at('person', a.person.ref);
    }
    default:
      return {};
  }
}
