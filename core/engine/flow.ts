import { own } from '../boundary/index.ts';
import { spanWords } from '../calendar/index.ts';
import type { StepOf } from '../plans/index.ts';
import type { Value } from '../values/index.ts';
import {
  afterSpan,
  ended,
  fail,
  holds,
  putOutputs,
  read,
  runaway,
  scopeOf,
  setTimer,
  valuesOf,
  withdrawLane,
  withdrawLanes,
  type Go,
  type Scope,
  type Settled,
} from './go.ts';
import { inBranch, takeBranch } from './gate.ts';
import { newLane, type Activity, type Lane } from './state.ts';

export function choose(go: Go, step: StepOf<'choose'>, activity: Activity, scope: Scope): Settled {
  if (!activity.lanes) {
    const found = step.cases.find((c) => c.when && holds(go, scope, c.when));
    takeBranch(go, step, activity, scope, found?.id ?? 'otherwise');
  }
  return inBranch(go, step, activity, scope);
}

/** Runs each lane as far as it goes; stops at the first that ended the run or failed. */
function runLanes(go: Go, step: StepOf<'together'> | StepOf<'forEach'>, activity: Activity, scope: Scope, onDone: (lane: Lane) => boolean): Settled {
  for (const lane of [...(activity.lanes ?? [])]) {
    const block = step.kind === 'forEach' ? step.body : (step.branches.find((b) => b.id === lane.id)?.block ?? []);
    const settled = go.run(block, lane, scopeOf(step, activity, lane, scope));
    if (settled === 'done') {
      activity.lanes = activity.lanes!.filter((l) => l !== lane);
      if (onDone(lane)) return 'done';
    } else if (settled !== 'waiting') return settled;
  }
  return 'waiting';
}

export function together(go: Go, step: StepOf<'together'>, activity: Activity, scope: Scope): Settled {
  activity.lanes ??= step.branches.map((b) => newLane(b.id));
  let first: string | undefined;
  const settled = runLanes(go, step, activity, scope, (lane) => {
    first = lane.id;
    return step.join === 'first';
  });
  if (settled === 'over' || typeof settled === 'object') return settled;
  if (first !== undefined && step.join === 'first') {
    const notTaken = step.branches.map((b) => b.id).filter((id) => id !== first);
    withdrawLanes(go, step, activity);
    return ended(go, activity, 'done', {}, { taken: first, notTaken });
  }
  return activity.lanes.length === 0 ? ended(go, activity, 'done') : 'waiting';
}

export function forEach(go: Go, step: StepOf<'forEach'>, activity: Activity, scope: Scope): Settled {
  if (!activity.list) {
    if (!step.list) return fail(go, scope, activity, `“${step.name}” has no list set.`);
    const list = read(go, scope, step.list.ref);
    activity.list = Array.isArray(list) ? list : list === undefined || list === null || list === '' ? [] : [list];
    activity.lanes = [];
    activity.count = 0;
  }
  const { list } = activity;
  for (;;) {
    while (activity.count! < list.length && activity.lanes!.length < (step.atOnce ?? Infinity)) {
      const number = (activity.count = activity.count! + 1);
      activity.lanes!.push({ ...newLane(String(number)), scope: { outputs: {}, row: { value: list[number - 1]!, number } } });
    }
    const before = activity.lanes!.length;
    const settled = runLanes(go, step, activity, scope, () => false);
    if (settled === 'over' || typeof settled === 'object') return settled;
    if (activity.lanes!.length === before || activity.count === list.length) break;
  }
  if (activity.lanes!.length > 0) return 'waiting';
  const outputs = { count: list.length };
  putOutputs(scope, step.id, outputs);
  return ended(go, activity, 'done', outputs);
}

export function beginRepeat(go: Go, step: StepOf<'repeat'>, activity: Activity): void {
  activity.count = 0;
  if (step.deadline) setTimer(go, activity, 'deadline', afterSpan(go, step.deadline));
}

export function repeat(go: Go, step: StepOf<'repeat'>, activity: Activity, scope: Scope): Settled {
  for (;;) {
    activity.lanes ??= [newLane('body')];
    const settled = go.run(step.body, activity.lanes[0]!, scope);
    if (settled !== 'done') return settled;
    delete activity.lanes;
    const tries = (activity.count = (activity.count ?? 0) + 1);
    if (!step.until) return fail(go, scope, activity, `“${step.name}” does not say when it is over.`);
    if (holds(go, scope, step.until)) {
      if (step.deadline || step.pause) go.effects.push({ effect: 'cancelTimers', key: activity.key });
      const outputs = { tries };
      putOutputs(scope, step.id, outputs);
      return ended(go, activity, 'done', outputs);
    }
    if (step.tries !== undefined && tries >= step.tries)
      return exhausted(go, step, activity, scope, `was tried ${tries} ${tries === 1 ? 'time' : 'times'}`);
    if (step.pause) {
      activity.phase = 'between';
      setTimer(go, activity, 'again', afterSpan(go, step.pause));
      return 'waiting';
    }
    if (runaway(go)) return 'over';
  }
}

function exhausted(go: Go, step: StepOf<'repeat'>, activity: Activity, scope: Scope, what: string): Settled {
  go.effects.push({ effect: 'cancelTimers', key: activity.key });
  return fail(go, scope, activity, `“${step.name}” ${what}, and what it waits for does not hold.`);
}

export function repeatLate(go: Go, step: StepOf<'repeat'>, activity: Activity, scope: Scope): Settled {
  withdrawLanes(go, step, activity);
  return exhausted(go, step, activity, scope, `ran for ${step.deadline ? spanWords(step.deadline) : 'its time'}`);
}

export function beginGuard(go: Go, step: StepOf<'guard'>, activity: Activity): void {
  activity.lanes = [newLane('body')];
  if (step.deadline) setTimer(go, activity, 'deadline', afterSpan(go, step.deadline));
}

export function guard(go: Go, step: StepOf<'guard'>, activity: Activity, scope: Scope): Settled {
  const lane = activity.lanes![0]!;
  const settled = go.run(
    lane.id === 'body' ? step.body : (lane.id === 'late' && step.late) || step.remedy,
    lane,
    scopeOf(step, activity, lane, scope),
  );
  if (typeof settled === 'object' && lane.id === 'body') return instead(go, step, activity, scope, 'remedy');
  if (settled !== 'done') return settled;
  if (lane.id === 'body' && step.deadline) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  return ended(
    go,
    activity,
    'done',
    {},
    { taken: lane.id, notTaken: ['body', 'remedy', ...(step.late ? ['late'] : [])].filter((id) => id !== lane.id) },
  );
}

/** Leaves the body for the remedy, or for what is stated when it is late. */
export function instead(go: Go, step: StepOf<'guard'>, activity: Activity, scope: Scope, branch: 'remedy' | 'late'): Settled {
  withdrawLane(go, step.body, activity.lanes![0]!);
  if (step.deadline) go.effects.push({ effect: 'cancelTimers', key: activity.key });
  activity.lanes = [newLane(branch)];
  return guard(go, step, activity, scope);
}

/** Parts within parts deeper than this are cut: they would call themselves. */
const deepest = 8;

export function part(go: Go, step: StepOf<'part'>, activity: Activity, scope: Scope): Settled {
  const definition = own(go.plan.parts, step.part ?? '');
  if (!definition)
    return fail(
      go,
      scope,
      activity,
      step.part ? `“${step.name}” uses a part that does not exist.` : `“${step.name}” does not say which part it uses.`,
    );
  if (activity.key.split('/').length > deepest) return fail(go, scope, activity, `“${step.name}” is ${deepest} parts deep; it would go on for ever.`);
  activity.lanes ??= [{ ...newLane('part'), scope: { outputs: {}, part: valuesOf(go, scope, step.inputs) } }];
  const lane = activity.lanes[0]!;
  const inner = scopeOf(step, activity, lane, scope);
  const settled = go.run(definition.steps, lane, inner);
  if (settled !== 'done') return settled;
  const outputs: Record<string, Value> = Object.fromEntries(definition.outputs.map((o) => [o.name, read(go, inner, o.from.ref) ?? null]));
  putOutputs(scope, step.id, outputs);
  return ended(go, activity, 'done', outputs);
}
