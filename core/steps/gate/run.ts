import { isEmpty, isPerson, isReference, type Value } from '../../values/index.ts';
import {
  ended,
  fail,
  finish,
  inBranch,
  outputsOf,
  putOutputs,
  correct,
  correctOpened,
  read,
  readAs,
  setOutputs,
  setTimer,
  setTimerAfter,
  takeBranch,
  tellRequester,
  valueOf,
  whoseRequest,
  type RunContext,
  type ActiveStep,
  type Scope,
  type Settled,
} from '../run/context.ts';
import type { IgnoredReason, Wanted } from '../run/effect.ts';
import type { Candidate, EventOf, StepEvent } from '../run/event.ts';
import type { Activity, AskedApprover } from '../run/state.ts';
import { approversWanted, isAgreed, resolveAsks, settleGate, sourcesOf, wanted, type Resolved } from './resolve.ts';
import type { Approvers, ApproverSource, Gate, GateRule } from './settings.ts';

/** First move: find out whom to ask. */
export function start(context: RunContext, gate: Gate, activity: Activity, scope: Scope): Settled {
  const a = gate.approvers;
  if (!a) return fail(context, scope, activity, `“${gate.name}” has no approvers set.`);
  const sought: Wanted = wantedApprovers(context, a, scope) ?? { from: 'people', people: [] };
  activity.phase = 'finding';
  context.effects.push({ effect: 'find', key: activity.key, wanted: sought, ...statedIn(gate) });
  return 'waiting';
}

const wantedApprovers = (context: RunContext, a: Approvers, scope: Scope): Wanted | undefined =>
  approversWanted(a, (ref) => read(context, scope, ref));

type FoundApprovers = Pick<EventOf<'found'>, 'people' | 'rule' | 'passes' | 'problem' | 'stated'>;

/** Whom the gate names for when nobody is found, for the look-up to see whether they can answer. */
const statedIn = (gate: Gate) => (gate.nobody?.then === 'ask' ? { stated: gate.nobody.person.person } : {});

/** Asks whoever was found, or does what the gate states for when nobody, or too few, can be asked. */
export function openGate(context: RunContext, active: Omit<ActiveStep<Gate>, 'lane'>, found: FoundApprovers): Settled {
  const { step: gate, activity, scope } = active;
  // A new round has decisions of its own.
  putOutputs(scope, gate.id, {});
  if (found.problem) return fail(context, scope, activity, found.problem);
  if (found.passes !== undefined) return pass(context, gate, activity, scope, found.passes);
  // Every level of a chain of command has to agree.
  const rule: GateRule = found.rule ?? (gate.approvers?.from === 'chain' ? { rule: 'all' } : gate.rule);
  const resolved = resolveAsks(gate, rule, found.people, whoseRequest(context), found.stated);
  if ('nobody' in resolved) return nobodyToAsk(context, active, rule, resolved);
  const asks = resolved.asks.map((ask, i): AskedApprover => (inTurn(gate) && i > 0 ? { ...ask, waits: true } : ask));
  activity.phase = 'asking';
  activity.asks = asks;
  activity.rule = rule;
  context.effects.push({
    effect: 'openGate',
    key: activity.key,
    step: gate.id,
    name: gate.name,
    rule,
    asks,
    corrects: gate.corrects ?? [],
    sendBack: gate.sendBack ?? false,
  });
  for (const ask of asks) if (!ask.waits) remindLater(context, gate, activity, ask);
  if (gate.deadline !== undefined) setTimerAfter(context, activity, 'lapse', { length: gate.deadline, counted: 'working' });
  return 'waiting';
}
const inTurn = (gate: Gate) => gate.order === 'inTurn' || gate.approvers?.from === 'chain';

/** What the gate states for when nobody is left to ask, or too few are. */
function nobodyToAsk(
  context: RunContext,
  { step: gate, activity, scope }: Omit<ActiveStep<Gate>, 'lane'>,
  rule: GateRule,
  { nobody, found }: Extract<Resolved, { nobody: unknown }>,
): Settled {
  const few =
    found === 0
      ? `Nobody could be asked at “${gate.name}”`
      : rule.rule === 'oneOfEach'
        ? `“${gate.name}” wants an approval from each of ${sourcesOf(gate)} sides, and only ${found} of them have somebody who can be asked`
        : `Only ${found} could be asked at “${gate.name}”, which wants ${wanted(rule, found)} approvals`;
  if (nobody === 'pass') return pass(context, gate, activity, scope, `${few}; the gate states that it passes.`);
  if (nobody === 'unstated') return fail(context, scope, activity, `${few}, and the gate states no answer to that.`);
  if (scope.guarded) return fail(context, scope, activity, `${few}.`);
  const reason = `${few}, and the gate states that the request then fails.`;
  tellRequester(context, activity.key, 'failed', reason);
  ended(context, activity, 'failed', {}, { note: reason });
  return finish(context, 'failed', reason);
}

/** Looks up again whom an open gate asks, since somebody who was asked cannot answer any more. */
export function askAgainWhom(context: RunContext, gate: Gate, activity: Activity, scope: Scope): void {
  const sought: Wanted = (gate.approvers && wantedApprovers(context, gate.approvers, scope)) ?? { from: 'people', people: [] };
  activity.phase = 'refinding';
  context.effects.push({ effect: 'find', key: activity.key, wanted: sought, ...statedIn(gate) });
}

/**
 * Takes over who is to be asked now. Decisions that were given stay; who has not answered and is not among them any more
 * is released; who is new is asked. With too few left the gate does what it states for that.
 */
export function changeAsks(context: RunContext, active: Omit<ActiveStep<Gate>, 'lane'>, found: FoundApprovers): void {
  const { step: gate, activity, scope } = active;
  const before = activity.asks ?? [];
  const rule = found.rule ?? activity.rule ?? gate.rule;
  activity.phase = 'asking';
  const close = () => {
    context.effects.push({ effect: 'closeGate', key: activity.key, result: 'withdrawn' });
    if (isTimed(gate)) context.effects.push({ effect: 'cancelTimers', key: activity.key });
    delete activity.asks;
    activity.phase = 'inside';
  };
  if (found.problem || found.passes !== undefined) {
    close();
    if (found.problem) fail(context, scope, activity, found.problem);
    else pass(context, gate, activity, scope, found.passes!);
    return;
  }
  const resolved = resolveAsks(gate, rule, [...deciders(before), ...found.people], whoseRequest(context), found.stated);
  if ('nobody' in resolved) {
    close();
    nobodyToAsk(context, active, rule, resolved);
    return;
  }
  activity.rule = rule;
  // Who is asked already stays as they are, and speaks for the sides that they are found by now, too.
  activity.asks = resolved.asks.map((ask) => {
    const had = before.find((a) => a.person === ask.person);
    return had ? { ...had, ...(ask.sources && { sources: ask.sources }) } : { ...ask, ...(inTurn(gate) && { waits: true }) };
  });
  const asked = new Set(activity.asks.map((a) => a.person));
  const fresh = activity.asks.filter((a) => !before.some((b) => b.person === a.person));
  const released = before.filter((a) => !asked.has(a.person)).map((a) => a.person);
  if (fresh.length + released.length > 0) context.effects.push({ effect: 'changeAsks', key: activity.key, added: fresh, released });
  for (const ask of fresh) if (!ask.waits) remindLater(context, gate, activity, ask);
}
/** Who has decided, as people a rule still counts. */
const deciders = (asks: AskedApprover[]): Candidate[] =>
  asks.filter((a) => a.decision).map(({ person, sources }) => ({ person, ...(sources && { sources }) }));

/** The next reminder to somebody who has been asked; each has reminders of their own. */
function remindLater(context: RunContext, gate: Gate, activity: Activity, ask: AskedApprover): void {
  if (gate.reminders && (ask.reminded ?? 0) < gate.reminders.times)
    setTimerAfter(context, activity, `remind:${ask.person}`, { length: gate.reminders.after, counted: 'working' });
}

/** Reminds those of `people` who have been asked and are silent. */
export function remindApprovers(context: RunContext, gate: Gate, activity: Activity, people: (person: string) => boolean): void {
  const silent = (activity.asks ?? []).filter((a) => !a.decision && !a.waits && people(a.person));
  if (silent.length === 0) return;
  context.effects.push({ effect: 'remind', key: activity.key, people: silent.map((a) => a.person) });
  for (const ask of silent) {
    ask.reminded = (ask.reminded ?? 0) + 1;
    remindLater(context, gate, activity, ask);
  }
}

function pass(context: RunContext, gate: Gate, activity: Activity, scope: Scope, note: string): Settled {
  putOutputs(scope, gate.id, { outcome: 'approved', decidedBy: null, comment: null });
  takeBranch(context, gate, activity, scope, 'approved', 'passed', note);
  return inBranch(context, gate, activity, scope);
}

/** Looks whether the replies so far settle the gate; if not, and it is somebody's turn, asks them. */
export function decideGate(context: RunContext, gate: Gate, activity: Activity, scope: Scope): Settled {
  const asks = activity.asks ?? [];
  const result = settleGate(activity.rule ?? gate.rule, asks);
  if (!result) {
    const wants = (a: AskedApprover) => activity.rule?.rule !== 'oneOfEach' || (a.sources ?? [0]).some((s) => !isAgreed(asks, s));
    const next = asks.every((a) => a.waits || a.decision) ? asks.find((a) => a.waits && wants(a)) : undefined;
    if (next) {
      delete next.waits;
      context.effects.push({ effect: 'askNext', key: activity.key, person: next.person });
      remindLater(context, gate, activity, next);
    }
    return 'waiting';
  }
  return closeGate(context, gate, activity, scope, result);
}

/** Closes the gate with a result and goes on where it says so; else ends the run and tells the requester. */
export function closeGate(context: RunContext, gate: Gate, activity: Activity, scope: Scope, result: 'approved' | 'declined' | 'lapsed'): Settled {
  const outputs = outputsOf(scope, gate.id);
  outputs['outcome'] = result;
  const decidedBy = result !== 'lapsed' && isPerson(outputs['decidedBy']) ? outputs['decidedBy'].person : undefined;
  context.effects.push({ effect: 'closeGate', key: activity.key, result, ...(decidedBy && { decidedBy }) });
  if (isTimed(gate)) context.effects.push({ effect: 'cancelTimers', key: activity.key });
  delete activity.asks;
  delete activity.lapsesAt;
  takeBranch(context, gate, activity, scope, result, result);
  if (result === 'approved' || gate[result]) return inBranch(context, gate, activity, scope);
  const reason = result === 'lapsed' ? `Nobody answered at “${gate.name}” in time, so it is closed.` : declineReason(gate, outputs['comment']);
  tellRequester(context, activity.key, result, reason);
  return finish(context, result, reason);
}
const declineReason = (gate: Gate, comment: Value | undefined) =>
  typeof comment === 'string' && !isEmpty(comment) ? comment : `Declined at “${gate.name}” without a reason given.`;

/** Reminders and the deadline are timers. */
export const isTimed = (gate: Gate): boolean => gate.deadline !== undefined || gate.reminders !== undefined;

/** Looks whether the replies settle it; once they have, goes on inside the way taken. */
export const settle = (context: RunContext, gate: Gate, activity: Activity, scope: Scope): Settled =>
  activity.phase === 'asking' ? decideGate(context, gate, activity, scope) : inBranch(context, gate, activity, scope);

/** Whoever was asked, or whoever has it back, is asked no more. */
export function withdraw(context: RunContext, _: Gate, a: Activity): void {
  if (a.phase === 'asking' || a.phase === 'refinding') context.effects.push({ effect: 'closeGate', key: a.key, result: 'withdrawn' });
  if (a.phase === 'returned') context.effects.push({ effect: 'closeQuestion', key: a.key, result: 'withdrawn' });
}

/** What the gate reads to know whom to ask, for the trace. */
export function inputs(context: RunContext, gate: Gate, scope: Scope): Record<string, Value> {
  const a = gate.approvers;
  if (a?.from === 'policy') return Object.fromEntries(Object.entries(a.inputs).map(([name, o]) => [name, valueOf(context, scope, o)]));
  if (a?.from === 'chain') return readAs(context, scope, 'person', a.person.ref);
  const sources = a?.from === 'several' ? a.of : a ? [a] : [];
  return Object.assign({}, ...sources.map((source, i) => readBy(context, source, scope, sources.length > 1 ? `${i + 1}. ` : ''))) as Record<
    string,
    Value
  >;
}
function readBy(context: RunContext, a: ApproverSource, scope: Scope, before: string): Record<string, Value> {
  if (a.from === 'people' || a.from === 'team') return {};
  if (a.from !== 'ownersOf') return readAs(context, scope, `${before}person`, a.person.ref);
  return isReference(a.group) ? readAs(context, scope, `${before}group`, a.group.ref) : { [`${before}group`]: a.group.literal };
}

/** Its deadline is known to those who are asked; reminders are timers only. */
export function reckoned(context: RunContext, { activity }: ActiveStep<Gate>, name: string, at: string | null): void {
  if (at === null) return;
  setTimer(context, activity, name, at);
  if (name !== 'lapse') return;
  activity.lapsesAt = at;
  context.effects.push({ effect: 'gateLapses', key: activity.key, at });
}

/** What happens to a gate: who was found, decisions, sending back, reminders, the deadline, staff that changes. */
export function on(context: RunContext, active: ActiveStep<Gate>, event: StepEvent): IgnoredReason | undefined {
  const { step, activity, scope } = active;
  if (event.type === 'found') {
    if (activity.phase === 'refinding') changeAsks(context, active, event);
    else if (activity.phase === 'finding') {
      activity.phase = 'inside';
      openGate(context, active, event);
    } else return 'not-open';
    return undefined;
  }
  if (event.type === 'decided') return decided(context, active, event);
  if (event.type === 'sentBack') return sentBack(context, active, event);
  if (event.type === 'resubmitted') return resubmitted(context, active, event);
  if (activity.phase !== 'asking') return 'not-open';
  if (event.type === 'staffChanged') {
    askAgainWhom(context, step, activity, scope);
    return undefined;
  }
  if (event.type !== 'timer') return 'not-open';
  // Gates opened before reminders were each approver's own have one timer for all.
  if (event.name === 'remind') remindApprovers(context, step, activity, () => true);
  else if (event.name.startsWith('remind:')) remindApprovers(context, step, activity, (person) => event.name === `remind:${person}`);
  if (event.name === 'lapse') closeGate(context, step, activity, scope, 'lapsed');
  return undefined;
}

function openAsk(context: RunContext, { activity }: ActiveStep<Gate>, person: string) {
  if (activity.phase !== 'asking') return 'not-open' as const;
  // The timer that closes the gate may come a little after its instant; what is decided then is late all the same.
  if (activity.lapsesAt !== undefined && context.now >= activity.lapsesAt) return 'late' as const;
  const ask = activity.asks?.find((a) => a.person === person && !a.waits);
  if (!ask) return 'not-asked' as const;
  return ask.decision ? ('decided-already' as const) : ask;
}

function decided(context: RunContext, active: ActiveStep<Gate>, event: EventOf<'decided'>): IgnoredReason | undefined {
  const { step, activity, scope } = active;
  const ask = openAsk(context, active, event.person);
  if (typeof ask === 'string') return ask;
  ask.decision = event.decision;
  correctOpened(context, event.person, step.corrects ?? [], event);
  setOutputs(scope, step.id, { decidedBy: { person: event.person }, comment: isEmpty(event.comment) ? null : event.comment });
  context.effects.push({ effect: 'decision', key: activity.key, person: event.person, decision: event.decision, comment: event.comment });
  return undefined;
}

function sentBack(context: RunContext, active: ActiveStep<Gate>, event: EventOf<'sentBack'>): IgnoredReason | undefined {
  const { step, activity, scope } = active;
  if (!step.sendBack) return 'not-allowed';
  const ask = openAsk(context, active, event.person);
  if (typeof ask === 'string') return ask;
  activity.phase = 'returned';
  delete activity.asks;
  context.effects.push({ effect: 'closeGate', key: activity.key, result: 'returned', decidedBy: event.person });
  if (isTimed(step)) context.effects.push({ effect: 'cancelTimers', key: activity.key });
  setOutputs(scope, step.id, { comment: event.comment });
  const question = { text: [[{ text: event.comment }]], values: {} };
  context.effects.push({ effect: 'openQuestion', key: activity.key, to: context.state.request!.requester.person, name: step.name, question });
  return undefined;
}

/** The corrected request meets the gate as a new one: approvers are looked up and asked afresh. */
function resubmitted(context: RunContext, active: ActiveStep<Gate>, event: EventOf<'resubmitted'>): IgnoredReason | undefined {
  const { activity, lane } = active;
  if (activity.phase !== 'returned') return 'not-open';
  if (event.person !== context.state.request?.requester.person) return 'not-yours';
  // A whole form was sent: what it does not show any more is empty.
  const hidden = Object.keys(context.state.answers).filter((id) => !Object.hasOwn(event.answers, id));
  correct(context, event.person, { ...Object.fromEntries(hidden.map((id) => [id, null])), ...event.answers });
  context.effects.push({ effect: 'closeQuestion', key: activity.key, result: 'answered', values: event.answers });
  ended(context, activity, 'returned');
  delete lane.current;
  return undefined;
}
