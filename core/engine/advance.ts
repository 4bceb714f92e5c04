import { compile } from '../conditions/index.ts';
import {
  branches,
  defaultRetries,
  findStep,
  outcomeWords,
  type Block,
  type Choose,
  type Finish,
  type Gate,
  type Plan,
  type Provision,
  type Step,
  type Tell,
} from '../plans/index.ts';
import { isEmpty, isGroup, isPerson, isReference, sentence, type Operand, type RichText, type Value } from '../values/index.ts';
import type { Effect, IgnoredReason, ResolvedApprovers, StepEnd } from './effect.ts';
import type { RunEvent } from './event.ts';
import { resolveAsks, settleGate } from './gate.ts';
import { readPlace, type Activity, type BlockActivity, type RunState } from './state.ts';

/** More automatic steps than this in one advance is a runaway. */
const automaticLimit = 10_000;

interface Go {
  plan: Plan;
  state: RunState;
  effects: Effect[];
  steps: number;
}

/**
 * The meaning of a plan. Takes one event and gives the next state and what must be done about it.
 * Pure: `state` and `event` are left as they were. `now` is the ISO instant of the event.
 * An event that does not fit is answered with an `ignored` effect and changes nothing.
 */
export function advance(plan: Plan, state: RunState, event: RunEvent, now: string): { state: RunState; effects: Effect[] } {
  const go: Go = { plan, state: structuredClone(state), effects: [], steps: 0 };
  const ignored = apply(go, event, now);
  if (ignored) return { state, effects: [{ effect: 'ignored', reason: ignored }] };
  if (go.state.status === 'open' && settleBlock(go, plan.steps, go.state.root) === 'done') finish(go, 'fulfilled');
  return { state: go.state, effects: go.effects };
}

/** The state after a list of events, from nothing. */
export function replay(plan: Plan, events: { event: RunEvent; at: string }[], from: RunState): RunState {
  return events.reduce((state, e) => advance(plan, state, e.event, e.at).state, from);
}

/** Takes the event into the activity it is for; the settling afterwards moves the plan on. */
function apply(go: Go, event: RunEvent, now: string): IgnoredReason | undefined {
  const { state } = go;
  if (event.type === 'begin') {
    if (state.status !== 'new') return 'begun-already';
    state.status = 'open';
    state.request = { requester: event.requester, number: event.number, opened: now };
    state.answers = event.answers;
    return undefined;
  }
  if (state.status !== 'open') return state.status === 'ended' ? 'ended' : 'not-open';
  if (event.type === 'withdrawn') {
    if (event.person !== state.request?.requester.person) return 'not-yours';
    finish(go, 'withdrawn', 'Withdrawn by the requester.');
    return undefined;
  }
  const activity = findActivity(state.root, event.key);
  if (!activity) return 'not-open';
  switch (event.type) {
    case 'found': {
      if (activity.phase !== 'finding') return 'not-open';
      const gate = findStep(go.plan, activity.step) as Gate;
      openGate(go, gate, activity, event.people);
      return undefined;
    }
    case 'decided': {
      if (activity.phase !== 'asking') return 'not-open';
      const ask = activity.asks?.find((a) => a.person === event.person);
      if (!ask) return 'not-asked';
      if (ask.decision) return 'decided-already';
      ask.decision = event.decision;
      const outputs = (state.outputs[activity.step] ??= {});
      outputs['decidedBy'] = { person: event.person };
      outputs['comment'] = isEmpty(event.comment) ? null : event.comment;
      go.effects.push({ effect: 'decision', key: activity.key, person: event.person, decision: event.decision, comment: event.comment });
      return undefined;
    }
    case 'answered':
      if (activity.phase !== 'calling') return 'not-open';
      state.outputs[activity.step] = event.outputs;
      activity.phase = 'inside';
      return undefined;
    case 'callFailed':
      if (activity.phase !== 'calling') return 'not-open';
      stick(go, activity, event.cause);
      return undefined;
    case 'retried':
      if (activity.phase !== 'stuck') return 'not-open';
      activity.round = (activity.round ?? 0) + 1;
      activity.cause = undefined;
      start(go, findStep(go.plan, activity.step)!, activity);
      return undefined;
  }
}

function findActivity(block: BlockActivity, key: string): Activity | undefined {
  const current = block.current;
  if (!current || current.key === key) return current;
  return current.inside && findActivity(current.inside, key);
}

type Settled = 'done' | 'waiting' | 'over';

/** Runs a block until it waits, is done, or the run is over. Re-entrant: it picks up where the activity stands. */
function settleBlock(go: Go, block: Block, activity: BlockActivity): Settled {
  while (activity.at < block.length) {
    const step = block[activity.at]!;
    if (!activity.current) {
      if (++go.steps > automaticLimit) {
        finish(go, 'failed', `Runaway: more than ${automaticLimit} steps without a pause.`);
        return 'over';
      }
      activity.current = begin(go, step);
    }
    const settled = settleStep(go, step, activity.current);
    if (settled !== 'done') return settled;
    delete activity.current;
    activity.at++;
  }
  return 'done';
}

function begin(go: Go, step: Step): Activity {
  const occurrence = (go.state.begun[step.id] = (go.state.begun[step.id] ?? 0) + 1);
  const activity: Activity = { key: `${step.id}#${occurrence}`, step: step.id, phase: 'inside' };
  go.effects.push({ effect: 'began', key: activity.key, step: step.id, kind: step.kind, name: step.name, inputs: inputsOf(go, step) });
  start(go, step, activity);
  return activity;
}

/** The first move of a step, or of a stuck step tried again. */
function start(go: Go, step: Step, activity: Activity): void {
  if (step.kind === 'gate') findApprovers(go, step, activity);
  if (step.kind === 'provision') call(go, step, activity);
}

function settleStep(go: Go, step: Step, activity: Activity): Settled {
  if (go.state.status === 'ended') return 'over';
  if (activity.phase !== 'inside') {
    if (step.kind === 'gate' && activity.phase === 'asking') return decideGate(go, step, activity);
    return 'waiting';
  }
  switch (step.kind) {
    case 'gate':
      return inBranch(go, step, activity);
    case 'choose':
      return choose(go, step, activity);
    case 'provision':
      return end(go, activity, 'done', go.state.outputs[step.id] ?? {});
    case 'tell':
      return tell(go, step, activity);
    case 'finish':
      return finishHere(go, step, activity);
  }
}

function end(
  go: Go,
  activity: Activity,
  how: StepEnd,
  outputs: Record<string, Value> = {},
  more: { taken?: string; notTaken?: string[]; note?: string } = {},
): 'done' {
  go.effects.push({ effect: 'ended', key: activity.key, end: how, outputs, ...more });
  return 'done';
}

function stick(go: Go, activity: Activity, cause: string): 'waiting' {
  activity.phase = 'stuck';
  activity.cause = cause;
  go.effects.push({ effect: 'stuck', key: activity.key, cause });
  return 'waiting';
}

// Gate

function findApprovers(go: Go, gate: Gate, activity: Activity): void {
  const approvers = resolveApprovers(go, gate);
  if (approvers === 'unset') {
    stick(go, activity, `“${gate.name}” has no approvers set.`);
  } else if (approvers === 'empty') {
    openGate(go, gate, activity, []);
  } else {
    activity.phase = 'finding';
    go.effects.push({ effect: 'find', key: activity.key, approvers });
  }
}

function resolveApprovers(go: Go, gate: Gate): ResolvedApprovers | 'unset' | 'empty' {
  const a = gate.approvers;
  if (!a) return 'unset';
  if (a.from === 'people') return { from: 'people', people: a.people.map((p) => p.person) };
  const value = readPlace(go.state, a.from === 'ownersOf' ? a.group.ref : a.person.ref);
  if (a.from === 'ownersOf') return isGroup(value) ? { from: 'ownersOf', group: value.group } : 'empty';
  if (!isPerson(value)) return 'empty';
  return a.from === 'managerOf' ? { from: 'managerOf', person: value.person } : { from: 'people', people: [value.person] };
}

function openGate(go: Go, gate: Gate, activity: Activity, people: Parameters<typeof resolveAsks>[1]): void {
  const resolved = resolveAsks(gate, people, go.state.request!.requester.person);
  if ('asks' in resolved) {
    activity.phase = 'asking';
    activity.asks = resolved.asks;
    go.effects.push({ effect: 'openGate', key: activity.key, step: gate.id, name: gate.name, rule: gate.rule, asks: resolved.asks });
  } else if (resolved.nobody === 'pass') {
    go.state.outputs[gate.id] = { outcome: 'approved', decidedBy: null, comment: null };
    takeBranch(go, gate, activity, 'passed', 'Nobody to ask; the gate states that it passes.');
  } else if (resolved.nobody === 'fail') {
    endAtGate(go, activity, 'failed', `Nobody could be asked at “${gate.name}”, and the gate states that the request then fails.`);
  } else {
    stick(go, activity, `Nobody could be asked at “${gate.name}”, and the gate states no answer to that.`);
  }
}

function decideGate(go: Go, gate: Gate, activity: Activity): Settled {
  const result = settleGate(gate.rule, activity.asks ?? []);
  if (!result) return 'waiting';
  const outputs = (go.state.outputs[gate.id] ??= {});
  outputs['outcome'] = result;
  const decidedBy = isPerson(outputs['decidedBy']) ? outputs['decidedBy'].person : undefined;
  go.effects.push({ effect: 'closeGate', key: activity.key, result, ...(decidedBy && { decidedBy }) });
  delete activity.asks;
  takeBranch(go, gate, activity, result);
  if (result === 'declined' && !gate.declined) {
    const comment = outputs['comment'];
    endAtGate(go, activity, 'declined', typeof comment === 'string' ? comment : `Declined at “${gate.name}” without a reason given.`);
    return 'over';
  }
  return inBranch(go, gate, activity);
}

/** The run ends here without a block that says so; the requester is told by the engine. */
function endAtGate(go: Go, activity: Activity, outcome: 'declined' | 'failed', reason: string): void {
  const subject: RichText = [[{ text: `${outcomeWords[outcome]}: request ` }, { ref: 'request.number' }]];
  go.effects.push({ effect: 'message', key: activity.key, to: go.state.request!.requester.person, ...fill(go, subject, sentence(reason)) });
  if (outcome === 'failed') end(go, activity, 'withdrawn', {}, { note: reason });
  finish(go, outcome, reason, activity.key);
}

/** Notes the branch taken and goes in. A branch that is not drawn is an empty block. */
function takeBranch(go: Go, step: Gate | Choose, activity: Activity, taken: string, note?: string): void {
  const branch = taken === 'passed' ? 'approved' : taken;
  const notTaken = branches(step)
    .map((b) => b.id)
    .filter((id) => id !== branch);
  activity.phase = 'inside';
  activity.branch = branch;
  activity.inside = { at: 0 };
  end(go, activity, taken === 'approved' || taken === 'declined' || taken === 'passed' ? taken : 'done', go.state.outputs[step.id] ?? {}, {
    taken: branch,
    notTaken,
    ...(note && { note }),
  });
}

function inBranch(go: Go, step: Gate | Choose, activity: Activity): Settled {
  const block = branches(step).find((b) => b.id === activity.branch)?.block ?? [];
  return settleBlock(go, block, (activity.inside ??= { at: 0 }));
}

// Choose, Provision, Tell, Finish

function choose(go: Go, step: Choose, activity: Activity): Settled {
  if (activity.branch === undefined) {
    const read = (ref: string) => readPlace(go.state, ref);
    const found = step.cases.find((c) => c.when && compile(c.when)(read));
    takeBranch(go, step, activity, found?.id ?? 'otherwise');
  }
  return inBranch(go, step, activity);
}

function call(go: Go, step: Provision, activity: Activity): void {
  if (!step.action) {
    stick(go, activity, `“${step.name}” has no action set.`);
    return;
  }
  activity.phase = 'calling';
  go.effects.push({
    effect: 'call',
    key: activity.key,
    action: step.action,
    inputs: inputsOf(go, step),
    round: activity.round ?? 0,
    retries: step.retries ?? defaultRetries,
  });
}

function tell(go: Go, step: Tell, activity: Activity): 'done' | 'waiting' {
  const to = step.to && readPlace(go.state, step.to.ref);
  if (!isPerson(to)) return stick(go, activity, `“${step.name}” has nobody to tell.`);
  go.effects.push({ effect: 'message', key: activity.key, to: to.person, ...fill(go, step.subject, step.body) });
  return end(go, activity, 'done');
}

function finishHere(go: Go, step: Finish, activity: Activity): Settled {
  if (!step.outcome) return stick(go, activity, `“${step.name}” has no outcome set.`);
  end(go, activity, 'done');
  activity.phase = 'inside';
  const comment = step.outcome === 'declined' ? lastComment(go.state) : undefined;
  finish(go, step.outcome, comment, activity.key);
  return 'over';
}

/** The words of the decline that led here. */
function lastComment(state: RunState): string | undefined {
  const declined = Object.values(state.outputs)
    .filter((o) => o['outcome'] === 'declined')
    .at(-1);
  return typeof declined?.['comment'] === 'string' ? declined['comment'] : undefined;
}

/** Ends the run and withdraws whatever is still open, except the step that ended it. */
function finish(go: Go, outcome: NonNullable<RunState['outcome']>, reason?: string, by?: string): void {
  const withdraw = (block: BlockActivity) => {
    const a = block.current;
    if (!a) return;
    if (a.inside) withdraw(a.inside);
    if (a.key === by || a.branch !== undefined) return;
    if (a.phase === 'asking') go.effects.push({ effect: 'closeGate', key: a.key, result: 'withdrawn' });
    if (a.phase === 'calling') go.effects.push({ effect: 'cancelCall', key: a.key });
    go.effects.push({ effect: 'ended', key: a.key, end: 'withdrawn', outputs: {} });
  };
  withdraw(go.state.root);
  go.state.root = { at: 0 };
  go.state.status = 'ended';
  go.state.outcome = outcome;
  if (reason) go.state.reason = reason;
  go.effects.push({ effect: 'finished', outcome, ...(reason && { reason }) });
}

// Values

function inputsOf(go: Go, step: Step): Record<string, Value> {
  const value = (o: Operand): Value => (isReference(o) ? (readPlace(go.state, o.ref) ?? null) : o.literal);
  if (step.kind === 'provision') return Object.fromEntries(Object.entries(step.inputs).map(([name, o]) => [name, value(o)]));
  if (step.kind === 'tell' && step.to) return { to: value(step.to) };
  if (step.kind === 'gate' && step.approvers && step.approvers.from !== 'people') {
    const { approvers } = step;
    return approvers.from === 'ownersOf' ? { group: value(approvers.group) } : { person: value(approvers.person) };
  }
  return {};
}

/** Puts the present values into a text, so that the message says what was true when it was sent. */
function fill(go: Go, subject: RichText, body: RichText): { subject: RichText; body: RichText; values: Record<string, Value> } {
  const values: Record<string, Value> = {};
  for (const p of [...subject, ...body]) for (const x of p) if ('ref' in x) values[x.ref] = readPlace(go.state, x.ref) ?? null;
  return { subject, body, values };
}
