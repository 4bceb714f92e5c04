import { setOwn } from '../../boundary/index.ts';
import { compareNumbers, isEmpty, isGroup, isNumber, isPerson, isReference, type Value } from '../../values/index.ts';
import {
  ended,
  fail,
  finish,
  inBranch,
  outputsOf,
  putOutputs,
  read,
  readAs,
  setOutputs,
  setTimer,
  setTimerAfter,
  takeBranch,
  tellRequester,
  valueOf,
  type Go,
  type Here,
  type Scope,
  type Settled,
} from '../run/context.ts';
import type { IgnoredReason, Wanted } from '../run/effect.ts';
import type { Candidate, EventOf, StepEvent } from '../run/event.ts';
import type { Activity, Ask } from '../run/state.ts';
import type { Approvers, Gate, GateRule } from './settings.ts';

type Resolved = { asks: Ask[] } | { nobody: 'pass' | 'fail' | 'unstated'; found: number };

/** How many approvals a rule wants of so many approvers. */
const wanted = (rule: GateRule, n: number): number => (rule.rule === 'all' ? n : rule.rule === 'atLeast' ? rule.count : 1);

/**
 * Who is really asked, once each: away people give way to their delegate, the requester to what the gate says
 * about own requests. Nobody left, or fewer than the rule wants: the gate's stated answer. Somebody stated joins those who
 * are left, and what the rule wants stays as it is.
 */
export function resolveAsks(gate: Gate, rule: GateRule, people: Candidate[], requester: string, stated?: string | null): Resolved {
  const asks = new Map<string, Ask>();
  const add = (person: string, insteadOf?: string) => {
    if (!asks.has(person)) asks.set(person, { person, ...(insteadOf !== undefined && insteadOf !== person && { insteadOf }) });
  };
  const barred = gate.ownRequest !== 'allow';
  for (const candidate of people) {
    if (candidate.person === requester && barred) {
      if (gate.ownRequest === 'manager' && candidate.manager && candidate.manager !== requester) add(candidate.manager, requester);
      continue;
    }
    const asked = candidate.delegate ?? (candidate.absent ? undefined : candidate.person);
    if (asked === undefined || (asked === requester && barred)) continue;
    add(asked, candidate.person);
  }
  const found = asks.size;
  const enough = () => asks.size > 0 && asks.size >= wanted(rule, asks.size);
  if (enough()) return { asks: [...asks.values()] };
  if (gate.nobody?.then !== 'ask') return { nobody: gate.nobody?.then ?? 'unstated', found };
  const person = stated === undefined ? gate.nobody.person.person : stated;
  // Asking the requester as a last resort would let them pass their own gate.
  if (person !== null && (person !== requester || !barred)) add(person, gate.nobody.person.person);
  return enough() ? { asks: [...asks.values()] } : { nobody: 'fail', found };
}

/**
 * The gate's result, as soon as it is certain: approved when the rule is met, declined when it cannot be met any
 * more (declines > n - k).
 */
export function settleGate(rule: GateRule, asks: Ask[]): 'approved' | 'declined' | undefined {
  const n = asks.length;
  const approvals = asks.filter((a) => a.decision === 'approve').length;
  const declines = asks.filter((a) => a.decision === 'decline').length;
  if (rule.rule === 'first') return approvals > 0 ? 'approved' : declines > 0 ? 'declined' : undefined;
  const k = wanted(rule, n);
  if (approvals >= k) return 'approved';
  return declines > n - k ? 'declined' : undefined;
}

/** First move: find out whom to ask. */
export function start(go: Go, gate: Gate, activity: Activity, scope: Scope): Settled {
  const a = gate.approvers;
  if (!a) return fail(go, scope, activity, `“${gate.name}” has no approvers set.`);
  const sought: Wanted = wantedApprovers(go, a, scope) ?? { from: 'people', people: [] };
  activity.phase = 'finding';
  go.effects.push({ effect: 'find', key: activity.key, wanted: sought, ...statedIn(gate) });
  return 'waiting';
}

const wantedApprovers = (go: Go, a: Approvers, scope: Scope): Wanted | undefined => approversWanted(a, (ref) => read(go, scope, ref));

/** Whom these approvers look up, by values as they are now; undefined where what they read leads to nobody. */
export function approversWanted(a: Approvers, valueAt: (ref: string) => Value | undefined): Wanted | undefined {
  if (a.from === 'people') return { from: 'people', people: a.people.map((p) => p.person) };
  if (a.from === 'team') return { from: 'team', team: a.team };
  if (a.from === 'policy') {
    const values = Object.entries(a.inputs).map(([name, o]): [string, Value] => [name, isReference(o) ? (valueAt(o.ref) ?? null) : o.literal]);
    return { from: 'policy', policy: a.policy, values: Object.fromEntries(values) };
  }
  const value = valueAt(a.from === 'ownersOf' ? a.group.ref : a.person.ref);
  if (a.from === 'ownersOf') return isGroup(value) ? { from: 'ownersOf', group: value.group } : undefined;
  if (a.from === 'person' && Array.isArray(value)) return { from: 'people', people: value.flatMap((v) => (isPerson(v) ? [v.person] : [])) };
  if (!isPerson(value)) return undefined;
  if (a.from === 'managerOf') return { from: 'managerOf', person: value.person, levels: a.levels ?? 1 };
  if (a.from === 'chain') return { from: 'chain', person: value.person, levels: levelsFor(a, a.amount && valueAt(a.amount.ref)) };
  return { from: 'people', people: [value.person] };
}

/** How far a chain climbs: to the first level whose limit covers the amount; without an amount, all the way. */
function levelsFor(a: Extract<Approvers, { from: 'chain' }>, amount: Value | undefined): number {
  if (!isNumber(amount)) return a.levels;
  const covers = Array.from({ length: a.levels }, (_, i) => a.limits?.[i]).findIndex(
    (limit) => limit === undefined || compareNumbers(amount, limit) <= 0,
  );
  return covers < 0 ? a.levels : covers + 1;
}

type Found = Pick<EventOf<'found'>, 'people' | 'rule' | 'passes' | 'problem' | 'stated'>;

/** Whom the gate names for when nobody is found, for the look-up to see whether they can answer. */
const statedIn = (gate: Gate) => (gate.nobody?.then === 'ask' ? { stated: gate.nobody.person.person } : {});

/** Asks whoever was found, or does what the gate states for when nobody, or too few, can be asked. */
export function openGate(go: Go, here: Omit<Here<Gate>, 'lane'>, found: Found): Settled {
  const { step: gate, activity, scope } = here;
  // A new round has decisions of its own.
  putOutputs(scope, gate.id, {});
  if (found.problem) return fail(go, scope, activity, found.problem);
  if (found.passes !== undefined) return pass(go, gate, activity, scope, found.passes);
  // Every level of a chain of command has to agree.
  const rule: GateRule = found.rule ?? (gate.approvers?.from === 'chain' ? { rule: 'all' } : gate.rule);
  const resolved = resolveAsks(gate, rule, found.people, go.state.request!.requester.person, found.stated);
  if ('nobody' in resolved) return nobodyToAsk(go, here, rule, resolved);
  const asks = resolved.asks.map((ask, i): Ask => (inTurn(gate) && i > 0 ? { ...ask, waits: true } : ask));
  activity.phase = 'asking';
  activity.asks = asks;
  activity.rule = rule;
  go.effects.push({
    effect: 'openGate',
    key: activity.key,
    step: gate.id,
    name: gate.name,
    rule,
    asks,
    corrects: gate.corrects ?? [],
    sendBack: gate.sendBack ?? false,
  });
  for (const ask of asks) if (!ask.waits) remindLater(go, gate, activity, ask);
  if (gate.deadline !== undefined) setTimerAfter(go, activity, 'lapse', { length: gate.deadline, counted: 'working' });
  return 'waiting';
}
const inTurn = (gate: Gate) => gate.order === 'inTurn' || gate.approvers?.from === 'chain';

/** What the gate states for when nobody is left to ask, or too few are. */
function nobodyToAsk(
  go: Go,
  { step: gate, activity, scope }: Omit<Here<Gate>, 'lane'>,
  rule: GateRule,
  { nobody, found }: Extract<Resolved, { nobody: unknown }>,
): Settled {
  const few =
    found > 0
      ? `Only ${found} could be asked at “${gate.name}”, which wants ${wanted(rule, found)} approvals`
      : `Nobody could be asked at “${gate.name}”`;
  if (nobody === 'pass') return pass(go, gate, activity, scope, `${few}; the gate states that it passes.`);
  if (nobody === 'unstated') return fail(go, scope, activity, `${few}, and the gate states no answer to that.`);
  if (scope.guarded) return fail(go, scope, activity, `${few}.`);
  const reason = `${few}, and the gate states that the request then fails.`;
  tellRequester(go, activity.key, 'failed', reason);
  ended(go, activity, 'failed', {}, { note: reason });
  return finish(go, 'failed', reason);
}

/** Looks up again whom an open gate asks, since somebody who was asked cannot answer any more. */
export function askAgainWhom(go: Go, gate: Gate, activity: Activity, scope: Scope): void {
  const sought: Wanted = (gate.approvers && wantedApprovers(go, gate.approvers, scope)) ?? { from: 'people', people: [] };
  activity.phase = 'refinding';
  go.effects.push({ effect: 'find', key: activity.key, wanted: sought, ...statedIn(gate) });
}

/**
 * Takes over who is to be asked now. Decisions that were given stay; who has not answered and is not among them any more
 * is released; who is new is asked. With too few left the gate does what it states for that.
 */
export function changeAsks(go: Go, here: Omit<Here<Gate>, 'lane'>, found: Found): void {
  const { step: gate, activity, scope } = here;
  const before = activity.asks ?? [];
  const rule = found.rule ?? activity.rule ?? gate.rule;
  activity.phase = 'asking';
  const close = () => {
    go.effects.push({ effect: 'closeGate', key: activity.key, result: 'withdrawn' });
    if (isTimed(gate)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
    delete activity.asks;
    activity.phase = 'inside';
  };
  if (found.problem || found.passes !== undefined) {
    close();
    if (found.problem) fail(go, scope, activity, found.problem);
    else pass(go, gate, activity, scope, found.passes!);
    return;
  }
  const resolved = resolveAsks(gate, rule, [...deciders(before), ...found.people], go.state.request!.requester.person, found.stated);
  if ('nobody' in resolved) {
    close();
    nobodyToAsk(go, here, rule, resolved);
    return;
  }
  activity.rule = rule;
  activity.asks = resolved.asks.map((ask) => before.find((a) => a.person === ask.person) ?? { ...ask, ...(inTurn(gate) && { waits: true }) });
  const asked = new Set(activity.asks.map((a) => a.person));
  const fresh = activity.asks.filter((a) => !before.includes(a));
  const released = before.filter((a) => !asked.has(a.person)).map((a) => a.person);
  if (fresh.length + released.length > 0) go.effects.push({ effect: 'changeAsks', key: activity.key, added: fresh, released });
  for (const ask of fresh) if (!ask.waits) remindLater(go, gate, activity, ask);
}
/** Who has decided, as people a rule still counts. */
const deciders = (asks: Ask[]): Candidate[] => asks.filter((a) => a.decision).map(({ person }) => ({ person }));

/** The next reminder to somebody who has been asked; each has reminders of their own. */
function remindLater(go: Go, gate: Gate, activity: Activity, ask: Ask): void {
  if (gate.reminders && (ask.reminded ?? 0) < gate.reminders.times)
    setTimerAfter(go, activity, `remind:${ask.person}`, { length: gate.reminders.after, counted: 'working' });
}

/** Reminds those of `people` who have been asked and are silent. */
export function remindApprovers(go: Go, gate: Gate, activity: Activity, people: (person: string) => boolean): void {
  const silent = (activity.asks ?? []).filter((a) => !a.decision && !a.waits && people(a.person));
  if (silent.length === 0) return;
  go.effects.push({ effect: 'remind', key: activity.key, people: silent.map((a) => a.person) });
  for (const ask of silent) {
    ask.reminded = (ask.reminded ?? 0) + 1;
    remindLater(go, gate, activity, ask);
  }
}

function pass(go: Go, gate: Gate, activity: Activity, scope: Scope, note: string): Settled {
  putOutputs(scope, gate.id, { outcome: 'approved', decidedBy: null, comment: null });
  takeBranch(go, gate, activity, scope, 'approved', 'passed', note);
  return inBranch(go, gate, activity, scope);
}

/** Looks whether the replies so far settle the gate; if not, and it is somebody's turn, asks them. */
export function decideGate(go: Go, gate: Gate, activity: Activity, scope: Scope): Settled {
  const asks = activity.asks ?? [];
  const result = settleGate(activity.rule ?? gate.rule, asks);
  if (!result) {
    const next = asks.every((a) => a.waits || a.decision) ? asks.find((a) => a.waits) : undefined;
    if (next) {
      delete next.waits;
      go.effects.push({ effect: 'askNext', key: activity.key, person: next.person });
      remindLater(go, gate, activity, next);
    }
    return 'waiting';
  }
  return closeGate(go, gate, activity, scope, result);
}

/** Closes the gate with a result and goes on where it says so; else ends the run and tells the requester. */
export function closeGate(go: Go, gate: Gate, activity: Activity, scope: Scope, result: 'approved' | 'declined' | 'lapsed'): Settled {
  const outputs = outputsOf(scope, gate.id);
  outputs['outcome'] = result;
  const decidedBy = result !== 'lapsed' && isPerson(outputs['decidedBy']) ? outputs['decidedBy'].person : undefined;
  go.effects.push({ effect: 'closeGate', key: activity.key, result, ...(decidedBy && { decidedBy }) });
  if (isTimed(gate)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  delete activity.asks;
  delete activity.lapsesAt;
  takeBranch(go, gate, activity, scope, result, result);
  if (result === 'approved' || gate[result]) return inBranch(go, gate, activity, scope);
  const reason = result === 'lapsed' ? `Nobody answered at “${gate.name}” in time, so it is closed.` : declineReason(gate, outputs['comment']);
  tellRequester(go, activity.key, result, reason);
  return finish(go, result, reason);
}
const declineReason = (gate: Gate, comment: Value | undefined) =>
  typeof comment === 'string' && !isEmpty(comment) ? comment : `Declined at “${gate.name}” without a reason given.`;

/** Reminders and the deadline are timers. */
export const isTimed = (gate: Gate): boolean => gate.deadline !== undefined || gate.reminders !== undefined;

/** Looks whether the replies settle it; once they have, goes on inside the way taken. */
export const settle = (go: Go, gate: Gate, activity: Activity, scope: Scope): Settled =>
  activity.phase === 'asking' ? decideGate(go, gate, activity, scope) : inBranch(go, gate, activity, scope);

/** Whoever was asked, or whoever has it back, is asked no more. */
export function withdraw(go: Go, _: Gate, a: Activity): void {
  if (a.phase === 'asking' || a.phase === 'refinding') go.effects.push({ effect: 'closeGate', key: a.key, result: 'withdrawn' });
  if (a.phase === 'returned') go.effects.push({ effect: 'closeQuestion', key: a.key, result: 'withdrawn' });
}

/** What the gate reads to know whom to ask, for the trace. */
export function inputs(go: Go, gate: Gate, scope: Scope): Record<string, Value> {
  const a = gate.approvers;
  if (!a || a.from === 'people' || a.from === 'team') return {};
  if (a.from === 'policy') return Object.fromEntries(Object.entries(a.inputs).map(([name, o]) => [name, valueOf(go, scope, o)]));
  return a.from === 'ownersOf' ? readAs(go, scope, 'group', a.group.ref) : readAs(go, scope, 'person', a.person.ref);
}

/** Its deadline is known to those who are asked; reminders are timers only. */
export function reckoned(go: Go, { activity }: Here<Gate>, name: string, at: string | null): void {
  if (at === null) return;
  setTimer(go, activity, name, at);
  if (name !== 'lapse') return;
  activity.lapsesAt = at;
  go.effects.push({ effect: 'gateLapses', key: activity.key, at });
}

/** What happens to a gate: who was found, decisions, sending back, reminders, the deadline, staff that changes. */
export function on(go: Go, here: Here<Gate>, event: StepEvent): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (event.type === 'found') {
    if (activity.phase === 'refinding') changeAsks(go, here, event);
    else if (activity.phase === 'finding') {
      activity.phase = 'inside';
      openGate(go, here, event);
    } else return 'not-open';
    return undefined;
  }
  if (event.type === 'decided') return decided(go, here, event);
  if (event.type === 'sentBack') return sentBack(go, here, event);
  if (event.type === 'resubmitted') return resubmitted(go, here, event);
  if (activity.phase !== 'asking') return 'not-open';
  if (event.type === 'staffChanged') {
    askAgainWhom(go, step, activity, scope);
    return undefined;
  }
  if (event.type !== 'timer') return 'not-open';
  // Gates opened before reminders were each approver's own have one timer for all.
  if (event.name === 'remind') remindApprovers(go, step, activity, () => true);
  else if (event.name.startsWith('remind:')) remindApprovers(go, step, activity, (person) => event.name === `remind:${person}`);
  if (event.name === 'lapse') closeGate(go, step, activity, scope, 'lapsed');
  return undefined;
}

function openAsk(go: Go, { activity }: Here<Gate>, person: string) {
  if (activity.phase !== 'asking') return 'not-open' as const;
  // The timer that closes the gate may come a little after its instant; what is decided then is late all the same.
  if (activity.lapsesAt !== undefined && go.now >= activity.lapsesAt) return 'late' as const;
  const ask = activity.asks?.find((a) => a.person === person && !a.waits);
  if (!ask) return 'not-asked' as const;
  return ask.decision ? ('decided-already' as const) : ask;
}

function decided(go: Go, here: Here<Gate>, event: EventOf<'decided'>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
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

function sentBack(go: Go, here: Here<Gate>, event: EventOf<'sentBack'>): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  if (!step.sendBack) return 'not-allowed';
  const ask = openAsk(go, here, event.person);
  if (typeof ask === 'string') return ask;
  activity.phase = 'returned';
  delete activity.asks;
  go.effects.push({ effect: 'closeGate', key: activity.key, result: 'returned', decidedBy: event.person });
  if (isTimed(step)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  setOutputs(scope, step.id, { comment: event.comment });
  const question = { text: [[{ text: event.comment }]], values: {} };
  go.effects.push({ effect: 'openQuestion', key: activity.key, to: go.state.request!.requester.person, name: step.name, question });
  return undefined;
}

/** The corrected request meets the gate as a new one: approvers are looked up and asked afresh. */
function resubmitted(go: Go, here: Here<Gate>, event: EventOf<'resubmitted'>): IgnoredReason | undefined {
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
