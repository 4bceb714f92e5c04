import { addSpan, addWorking, deskCalendar, type Calendar, type Span } from '../calendar/index.ts';
import { own, ownOr, setOwn } from '../boundary/index.ts';
import { compile, type Condition } from '../conditions/index.ts';
import { branches, outcomeWords, type Block, type Passage, type Plan, type Step, type StepOf } from '../plans/index.ts';
import { isPerson, isReference, piecesOf, sentence, type Operand, type RichText, type Value } from '../values/index.ts';
import type { Effect, Said, StepEnd } from './effect.ts';
import type { Activity, Given, Lane, RunState } from './state.ts';

/** One advance under way. */
export interface Go {
  plan: Plan;
  state: RunState;
  now: string;
  calendar: Calendar;
  effects: Effect[];
  /** Automatic steps begun so far. */
  steps: number;
  run: (block: Block, lane: Lane, scope: Scope) => Settled;
}

/** Where names are looked up: a round's or part's own values first, then outwards. */
export interface Scope {
  outputs: Record<string, Record<string, Value>>;
  row?: Record<string, Value> | undefined;
  part?: Record<string, Value> | undefined;
  /** Undefined at the top, and at the edge of a part: a part sees only what it is given. */
  outer?: Scope | undefined;
  /** Goes before the keys of steps inside a part. */
  prefix: string;
  /** A guard takes failures here. */
  guarded: boolean;
}

/** How far a block or step came. A failure is given only where a guard takes it. */
export type Settled = 'done' | 'waiting' | 'over' | { failed: Activity };

/** A step under way with all that is needed to work on it. */
export interface Here {
  step: Step;
  activity: Activity;
  scope: Scope;
  /** The lane whose current step this is. */
  lane: Lane;
}

export const calendarOf = (state: RunState): Calendar => deskCalendar(state.request?.zone ?? 'utc');
export const rootScope = (state: RunState): Scope => ({ outputs: state.outputs, prefix: '', guarded: false });

/** The block a lane of this step runs. */
export function blockOf(go: Go, step: Step, lane: Lane): Block {
  if (step.kind === 'part') return own(go.plan.parts, step.part ?? '')?.steps ?? [];
  const branch = step.kind === 'forEach' ? 'body' : lane.id;
  return branches(step).find((b) => b.id === branch)?.block ?? [];
}

/** The scope inside a lane of this step. */
export function scopeOf(step: Step, activity: Activity, lane: Lane, outer: Scope): Scope {
  if (step.kind === 'part') {
    return { outputs: lane.scope?.outputs ?? {}, part: lane.scope?.part, prefix: `${activity.key.replace('#', '~')}/`, guarded: outer.guarded };
  }
  const guarded = outer.guarded || (step.kind === 'guard' && lane.id === 'body');
  if (lane.scope) return { outputs: lane.scope.outputs, row: lane.scope.row, outer, part: outer.part, prefix: outer.prefix, guarded };
  return guarded === outer.guarded ? outer : { ...outer, guarded };
}

/** Every step under way, outermost first. */
export function* underWay(go: Go): Generator<Here> {
  function* inside(block: Block, lane: Lane, scope: Scope): Generator<Here> {
    const { current: activity } = lane;
    const step = block[lane.at];
    if (!activity || !step) return;
    yield { step, activity, scope, lane };
    for (const next of activity.lanes ?? []) yield* inside(blockOf(go, step, next), next, scopeOf(step, activity, next, scope));
  }
  yield* inside(go.plan.steps, go.state.root, rootScope(go.state));
  for (const a of go.state.additions ?? []) yield* inside([a.step], a.lane, rootScope(go.state));
}

export function find(go: Go, key: string): Here | undefined {
  for (const here of underWay(go)) if (here.activity.key === key) return here;
  return undefined;
}

// Reading

/** Reads a place from where it is used: the nearest scope that has it. */
export function read(go: Go, scope: Scope, ref: string): Value | undefined {
  const [head, second, third] = ref.split('.') as [string, string, string | undefined];
  if (head === 'form') return own(go.state.answers, second);
  if (head === 'part') return own(scope.part, second);
  if (head === 'row' || head === 'steps') {
    for (let s: Scope | undefined = scope; s; s = s.outer) {
      if (head === 'row' && s.row) return own(s.row, second);
      const outputs = head === 'steps' ? own(s.outputs, second) : undefined;
      if (outputs) return own(outputs, third ?? '');
    }
    return undefined;
  }
  const { request } = go.state;
  if (head !== 'request' || !request) return undefined;
  if (second === 'requester') return request.requester;
  if (second === 'number') return request.number;
  if (second === 'opened') return request.opened;
  return second === 'now' ? go.now : undefined;
}

export const valueOf = (go: Go, scope: Scope, o: Operand): Value => (isReference(o) ? (read(go, scope, o.ref) ?? null) : o.literal);
export const valuesOf = (go: Go, scope: Scope, operands: Record<string, Operand>): Record<string, Value> =>
  Object.fromEntries(Object.entries(operands).map(([name, o]) => [name, valueOf(go, scope, o)]));

const compiled = new WeakMap<Condition, ReturnType<typeof compile>>();
/** Conditions of a plan are compiled once, as long as the plan is kept. */
export function holds(go: Go, scope: Scope, condition: Condition): boolean {
  let predicate = compiled.get(condition);
  if (!predicate) compiled.set(condition, (predicate = compile(condition)));
  return predicate((ref) => read(go, scope, ref));
}

/** A text with the values of now, so that it says what was true when it was sent. */
export function said(go: Go, scope: Scope, text: RichText): Said {
  const values: Record<string, Value> = {};
  for (const x of piecesOf(text)) if (isReference(x)) values[x.ref] = read(go, scope, x.ref) ?? null;
  return { text, values };
}

/** The passages whose condition holds, as one text. */
export const saidPassages = (go: Go, scope: Scope, all: Passage[]): Said =>
  said(
    go,
    scope,
    all.flatMap((p) => (!p.when || holds(go, scope, p.when) ? p.text : [])),
  );

// Beginning and ending steps

/** More automatic steps than this in one advance is a runaway. */
const automaticLimit = 10_000;

/** Counts one automatic step; a runaway ends the run with that word. */
export function runaway(go: Go): boolean {
  if (++go.steps <= automaticLimit) return false;
  const reason = `Runaway: more than ${automaticLimit} steps without a pause.`;
  tellRequester(go, 'end', 'failed', reason);
  finish(go, 'failed', reason);
  return true;
}

/** What a step gives from here on, in place of what it gave before. */
export const putOutputs = (scope: Scope, step: string, values: Record<string, Value>): void => void setOwn(scope.outputs, step, values);
export const outputsOf = (scope: Scope, step: string): Record<string, Value> => ownOr(scope.outputs, step, () => ({}));

export function ended(
  go: Go,
  activity: Activity,
  end: StepEnd,
  outputs: Record<string, Value> = {},
  more: { taken?: string; notTaken?: string[]; note?: string } = {},
): 'done' {
  go.effects.push({ effect: 'ended', key: activity.key, end, outputs, ...more });
  activity.phase = 'settled';
  return 'done';
}

/** The step cannot go on: for a guard around it, or else for a person. */
export function fail(go: Go, scope: Scope, activity: Activity, cause: string): Settled {
  activity.cause = cause;
  if (scope.guarded) {
    activity.phase = 'failed';
    return { failed: activity };
  }
  activity.phase = 'stuck';
  delete activity.lanes;
  go.effects.push({ effect: 'stuck', key: activity.key, cause });
  return 'waiting';
}

export function setTimer(go: Go, activity: Activity, name: string, at: string): void {
  go.effects.push({ effect: 'timer', key: activity.key, name, at });
}
export const afterWorking = (go: Go, minutes: number): string => addWorking(go.now, minutes, go.calendar);
export const afterSpan = (go: Go, span: Span): string => addSpan(go.now, span, go.calendar);

/** Closes a step that is under way and everything inside it: as failed where it failed, else as no longer needed. */
export function withdraw(go: Go, step: Step | undefined, a: Activity): void {
  const { effects } = go;
  // A choice and a decided gate ended when their branch was taken.
  const over = a.phase === 'settled' || ((step?.kind === 'choose' || step?.kind === 'gate') && a.lanes !== undefined);
  withdrawLanes(go, step, a);
  if (a.phase === 'asking' || a.phase === 'refinding') effects.push({ effect: 'closeGate', key: a.key, result: 'withdrawn' });
  if (a.phase === 'calling') {
    effects.push({ effect: 'cancelCall', key: a.key });
    if (step?.kind === 'provision') (go.state.cancelled ??= []).push(givenBy(step, a, {}));
  }
  if (a.phase === 'working') effects.push({ effect: 'closeTask', key: a.key, result: 'withdrawn' });
  if (a.phase === 'answering' || a.phase === 'returned') effects.push({ effect: 'closeQuestion', key: a.key, result: 'withdrawn' });
  if (timed(step) && !over) effects.push({ effect: 'cancelTimers', key: a.key });
  if (!over)
    effects.push({
      effect: 'ended',
      key: a.key,
      end: a.phase === 'failed' ? 'failed' : 'withdrawn',
      outputs: {},
      ...(a.phase === 'failed' && a.cause && { note: a.cause }),
    });
  a.phase = 'settled';
}

/** What a provision gave, for undo. The inputs are those of the moment of the call. */
export const givenBy = (step: StepOf<'provision'>, a: Activity, outputs: Record<string, Value>): Given => ({
  key: a.key,
  name: step.name,
  ...(step.undo && { undo: step.undo }),
  action: step.action ?? '',
  inputs: a.inputs ?? {},
  outputs,
});

export function withdrawLanes(go: Go, step: Step | undefined, a: Activity): void {
  for (const lane of a.lanes ?? []) withdrawLane(go, step ? blockOf(go, step, lane) : [], lane);
  delete a.lanes;
}
export function withdrawLane(go: Go, block: Block, lane: Lane): void {
  if (lane.current) withdraw(go, block[lane.at], lane.current);
  delete lane.current;
}

/** Steps that may have set timers. */
export const timed = (step: Step | undefined): boolean =>
  step !== undefined &&
  ((step.kind === 'gate' && (step.deadline !== undefined || step.reminders !== undefined)) ||
    (step.kind === 'askBack' && step.reminders !== undefined) ||
    step.kind === 'pause' ||
    (step.kind === 'repeat' && (step.pause !== undefined || step.deadline !== undefined)) ||
    (step.kind === 'guard' && step.deadline !== undefined));

// The end of the run

/** The requester hears it from the engine where the plan has no words of its own. */
export function tellRequester(go: Go, key: string, outcome: NonNullable<RunState['outcome']>, reason: string): void {
  const subject: RichText = [[{ text: `${outcomeWords[outcome]}: request ` }, { ref: 'request.number' }]];
  const scope = rootScope(go.state);
  go.effects.push({
    effect: 'message',
    key,
    to: go.state.request!.requester.person,
    subject: said(go, scope, subject),
    body: said(go, scope, sentence(reason)),
  });
}

/** Ends the run and withdraws whatever is still open. */
export function finish(go: Go, outcome: NonNullable<RunState['outcome']>, reason?: string): 'over' {
  const { state } = go;
  withdrawLane(go, go.plan.steps, state.root);
  for (const a of state.additions ?? []) withdrawLane(go, [a.step], a.lane);
  delete state.additions;
  state.root = { id: 'plan', at: 0 };
  state.status = 'ended';
  state.outcome = outcome;
  if (reason) state.reason = reason;
  go.effects.push({ effect: 'finished', outcome, ...(reason && { reason }) });
  return 'over';
}

export const personOf = (v: Value | undefined): string | undefined => (isPerson(v) ? v.person : undefined);
