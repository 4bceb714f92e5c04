import { workingMinutes } from '../calendar/index.ts';
import { branches, type Approvers, type Gate, type GateRule, type StepOf } from '../plans/index.ts';
import { isEmpty, isGroup, isPerson, type Value } from '../values/index.ts';
import type { StepEnd, Wanted } from './effect.ts';
import type { Candidate, RunEvent } from './event.ts';
import {
  afterWorking,
  ended,
  fail,
  finish,
  outputsOf,
  read,
  setTimer,
  tellRequester,
  timed,
  valuesOf,
  withdrawLanes,
  type Go,
  type Here,
  type Scope,
  type Settled,
} from './go.ts';
import { newLane, type Activity, type Ask } from './state.ts';

/**
 * Who is really asked, once each: away people give way to their delegate, the requester to what the gate says
 * about own requests. Nobody left: the gate's stated answer.
 */
export function resolveAsks(gate: Gate, people: Candidate[], requester: string): { asks: Ask[] } | { nobody: 'pass' | 'fail' | 'unstated' } {
  const asks = new Map<string, Ask>();
  const add = (person: string, insteadOf?: string) => {
    if (!asks.has(person)) asks.set(person, { person, ...(insteadOf !== undefined && insteadOf !== person && { insteadOf }) });
  };
  for (const candidate of people) {
    if (candidate.person === requester && gate.ownRequest !== 'allow') {
      if (gate.ownRequest === 'manager' && candidate.manager && candidate.manager !== requester) add(candidate.manager, requester);
      continue;
    }
    const asked = candidate.delegate ?? candidate.person;
    if (asked === requester && gate.ownRequest !== 'allow') continue;
    add(asked, candidate.person);
  }
  if (asks.size > 0) return { asks: [...asks.values()] };
  if (gate.nobody?.then === 'ask') {
    const { person } = gate.nobody.person;
    // Asking the requester as a last resort would let them pass their own gate.
    return person === requester && gate.ownRequest !== 'allow' ? { nobody: 'fail' } : { asks: [{ person }] };
  }
  return { nobody: gate.nobody?.then ?? 'unstated' };
}

/**
 * The gate's result, as soon as it is certain: approved when the rule is met, declined when it cannot be met any
 * more (declines > n - k). A rule that wants more approvals than there are approvers wants all of them.
 */
export function settleGate(rule: GateRule, asks: Ask[]): 'approved' | 'declined' | undefined {
  const n = asks.length;
  const approvals = asks.filter((a) => a.decision === 'approve').length;
  const declines = asks.filter((a) => a.decision === 'decline').length;
  if (rule.rule === 'first') return approvals > 0 ? 'approved' : declines > 0 ? 'declined' : undefined;
  const k = rule.rule === 'all' ? n : rule.rule === 'any' ? 1 : Math.min(rule.count, n);
  if (approvals >= k) return 'approved';
  return declines > n - k ? 'declined' : undefined;
}

/** First move: find out whom to ask. */
export function beginGate(go: Go, gate: Gate, activity: Activity, scope: Scope): Settled {
  const a = gate.approvers;
  if (!a) return fail(go, scope, activity, `“${gate.name}” has no approvers set.`);
  const wanted = wantedApprovers(go, a, scope);
  if (!wanted) return openGate(go, { step: gate, activity, scope }, { people: [] });
  activity.phase = 'finding';
  go.effects.push({ effect: 'find', key: activity.key, wanted });
  return 'waiting';
}

function wantedApprovers(go: Go, a: Approvers, scope: Scope): Wanted | undefined {
  if (a.from === 'people') return { from: 'people', people: a.people.map((p) => p.person) };
  if (a.from === 'team') return { from: 'team', team: a.team };
  if (a.from === 'policy') return { from: 'policy', policy: a.policy, values: valuesOf(go, scope, a.inputs) };
  const value = read(go, scope, a.from === 'ownersOf' ? a.group.ref : a.person.ref);
  if (a.from === 'ownersOf') return isGroup(value) ? { from: 'ownersOf', group: value.group } : undefined;
  if (a.from === 'person' && Array.isArray(value)) return { from: 'people', people: value.flatMap((v) => (isPerson(v) ? [v.person] : [])) };
  if (!isPerson(value)) return undefined;
  if (a.from === 'managerOf') return { from: 'managerOf', person: value.person, levels: a.levels ?? 1 };
  if (a.from === 'chain') return { from: 'chain', person: value.person, levels: levelsFor(a, a.amount && read(go, scope, a.amount.ref)) };
  return { from: 'people', people: [value.person] };
}

/** How far a chain climbs: to the first level whose limit covers the amount; without an amount, all the way. */
function levelsFor(a: Extract<Approvers, { from: 'chain' }>, amount: Value | undefined): number {
  if (typeof amount !== 'number') return a.levels;
  const covers = Array.from({ length: a.levels }, (_, i) => a.limits?.[i] ?? Infinity).findIndex((limit) => amount <= limit);
  return covers < 0 ? a.levels : covers + 1;
}

type Found = Pick<Extract<RunEvent, { type: 'found' }>, 'people' | 'rule' | 'passes' | 'problem'>;

export function openGate(go: Go, here: Pick<Here, 'activity' | 'scope'> & { step: Gate }, found: Found): Settled {
  const { step: gate, activity, scope } = here;
  if (found.problem) return fail(go, scope, activity, found.problem);
  if (found.passes !== undefined) return pass(go, gate, activity, scope, found.passes);
  const resolved = resolveAsks(gate, found.people, go.state.request!.requester.person);
  if ('asks' in resolved) {
    const inTurn = gate.order === 'inTurn' || gate.approvers?.from === 'chain';
    const asks = resolved.asks.map((ask, i): Ask => (inTurn && i > 0 ? { ...ask, waits: true } : ask));
    activity.phase = 'asking';
    activity.asks = asks;
    // Every level of a chain of command has to agree.
    activity.rule = found.rule ?? (gate.approvers?.from === 'chain' ? { rule: 'all' } : gate.rule);
    const lapsesAt = gate.deadline === undefined ? undefined : afterWorking(go, workingMinutes(gate.deadline));
    go.effects.push({
      effect: 'openGate',
      key: activity.key,
      step: gate.id,
      name: gate.name,
      rule: activity.rule,
      asks,
      corrects: gate.corrects ?? [],
      sendBack: gate.sendBack ?? false,
      ...(lapsesAt && { lapsesAt }),
    });
    if (gate.reminders) setTimer(go, activity, 'remind', afterWorking(go, workingMinutes(gate.reminders.after)));
    if (lapsesAt) setTimer(go, activity, 'lapse', lapsesAt);
    return 'waiting';
  }
  if (resolved.nobody === 'pass') return pass(go, gate, activity, scope, 'Nobody to ask; the gate states that it passes.');
  const cause = `Nobody could be asked at “${gate.name}”`;
  if (resolved.nobody === 'unstated') return fail(go, scope, activity, `${cause}, and the gate states no answer to that.`);
  if (scope.guarded) return fail(go, scope, activity, `${cause}.`);
  const reason = `${cause}, and the gate states that the request then fails.`;
  tellRequester(go, activity.key, 'failed', reason);
  ended(go, activity, 'failed', {}, { note: reason });
  return finish(go, 'failed', reason);
}

function pass(go: Go, gate: Gate, activity: Activity, scope: Scope, note: string): Settled {
  scope.outputs[gate.id] = { outcome: 'approved', decidedBy: null, comment: null };
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
    }
    return 'waiting';
  }
  return closeGate(go, gate, activity, scope, result);
}

export function closeGate(go: Go, gate: Gate, activity: Activity, scope: Scope, result: 'approved' | 'declined' | 'lapsed'): Settled {
  const outputs = outputsOf(scope, gate.id);
  outputs['outcome'] = result;
  const decidedBy = result !== 'lapsed' && isPerson(outputs['decidedBy']) ? outputs['decidedBy'].person : undefined;
  go.effects.push({ effect: 'closeGate', key: activity.key, result, ...(decidedBy && { decidedBy }) });
  if (timed(gate)) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  delete activity.asks;
  takeBranch(go, gate, activity, scope, result, result);
  if (result === 'approved' || gate[result]) return inBranch(go, gate, activity, scope);
  const reason = result === 'lapsed' ? `Nobody answered at “${gate.name}” in time, so it is closed.` : declineReason(gate, outputs['comment']);
  tellRequester(go, activity.key, result, reason);
  return finish(go, result, reason);
}
const declineReason = (gate: Gate, comment: Value | undefined) =>
  typeof comment === 'string' && !isEmpty(comment) ? comment : `Declined at “${gate.name}” without a reason given.`;

/** Notes the branch taken and goes in. A branch that is not drawn is an empty block. */
export function takeBranch(
  go: Go,
  step: Gate | StepOf<'choose'>,
  activity: Activity,
  scope: Scope,
  branch: string,
  end: StepEnd = 'done',
  note?: string,
): void {
  const notTaken = branches(step)
    .map((b) => b.id)
    .filter((id) => id !== branch);
  activity.lanes = [newLane(branch)];
  ended(go, activity, end, scope.outputs[step.id] ?? {}, { taken: branch, notTaken, ...(note && { note }) });
  activity.phase = 'inside';
}

export function inBranch(go: Go, step: Gate | StepOf<'choose'>, activity: Activity, scope: Scope): Settled {
  const lane = activity.lanes?.[0];
  if (!lane) return 'done';
  const block = branches(step).find((b) => b.id === lane.id)?.block ?? [];
  const settled = go.run(block, lane, scope);
  if (settled === 'done') withdrawLanes(go, step, activity);
  return settled;
}
