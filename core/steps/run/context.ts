import { own, ownOr, setOwn } from '../../boundary/index.ts';
import { addAlways, workingMinutes, type Hours, type Span, type WantedInstant } from '../../calendar/index.ts';
import { compile, type Condition } from '../../conditions/index.ts';
import type { RunState } from '../../engine/index.ts';
import type { workOut } from '../../expressions/index.ts';
import type { Plan } from '../../plans/index.ts';
import { basePlace, isPerson, isReference, isRow, piecesOf, sentence, type Operand, type RichText, type Value } from '../../values/index.ts';
import type { Base } from '../base.ts';
import { branchesOf } from '../blocks.ts';
import type { AnyRoom } from '../room.ts';
import { outcomeWords, type Passage } from '../settings.ts';
import type { Block, Step } from '../step.ts';
import type { Effect, TextSnapshot, StepEnd } from './effect.ts';
import { newLane, type Activity, type Lane } from './state.ts';

/** One advance under way. */
export interface RunContext {
  plan: Plan;
  state: RunState;
  now: string;
  effects: Effect[];
  /** Automatic steps begun so far. */
  steps: number;
  run: (block: Block, lane: Lane, scope: Scope) => Settled;
  /** The room of a step. */
  room: (step: Step) => AnyRoom;
  /** Works expressions out. The engine brings it, so that rooms that only describe steps carry no arithmetic. */
  workOut: typeof workOut;
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
export interface ActiveStep<S extends Base = Step> {
  step: S;
  activity: Activity;
  scope: Scope;
  /** The lane whose current step this is. */
  lane: Lane;
}

/** Whose own request it is: whoever asks, and for whom. */
export const whoseRequest = (context: RunContext): string[] => [
  ...new Set([context.state.request!.requester.person, (context.state.request!.for ?? context.state.request!.requester).person]),
];

/** The hours by which a run counts working time: the desk's in the zone of the requester's place, or a team's. */
export const hoursOf = (context: RunContext, team?: string): Hours => ({
  zone: context.state.request?.zone ?? 'utc',
  ...(team !== undefined && { team }),
});
/** Where names are looked up at the top of a plan. */
export const rootScope = (state: RunState): Scope => ({ outputs: state.outputs, prefix: '', guarded: false });

/** The block a lane of this step runs. */
export function blockOf(context: RunContext, step: Step, lane: Lane): Block {
  const room = context.room(step);
  return room.laneBlock ? room.laneBlock(context, step, lane) : (branchesOf(room, step).find((b) => b.id === lane.id)?.block ?? []);
}

/** The scope inside a lane of this step. */
export const scopeOf = (context: RunContext, step: Step, activity: Activity, lane: Lane, outer: Scope): Scope =>
  context.room(step).laneScope?.(step, activity, lane, outer) ?? outer;

/** Every step under way, outermost first. */
export function* activeSteps(context: RunContext): Generator<ActiveStep> {
  function* inside(block: Block, lane: Lane, scope: Scope): Generator<ActiveStep> {
    const { current: activity } = lane;
    const step = block[lane.at];
    if (!activity || !step) return;
    yield { step, activity, scope, lane };
    for (const next of activity.lanes ?? []) yield* inside(blockOf(context, step, next), next, scopeOf(context, step, activity, next, scope));
  }
  yield* inside(context.plan.steps, context.state.root, rootScope(context.state));
  for (const a of context.state.additions ?? []) yield* inside([a.step], a.lane, rootScope(context.state));
  const { ending } = context.state;
  if (ending) yield* inside(closingOf(context, ending.step), ending.lane, rootScope(context.state));
}

/** The closing that an end has led to, as a block of its own. */
export const closingOf = (context: RunContext, id: string): Block => context.plan.steps.filter((step) => step.id === id);

/** The step under way with this key. */
export function activeStepOf(context: RunContext, key: string): ActiveStep | undefined {
  for (const active of activeSteps(context)) if (active.activity.key === key) return active;
  return undefined;
}

// Reading

/** Reads a place from where it is used: the nearest scope that has it. A column of a row is as it was when the step began to read it. */
export function read(context: RunContext, scope: Scope, ref: string): Value | undefined {
  const base = basePlace(ref);
  if (base !== ref) {
    const row = read(context, scope, base);
    const found = isRow(row) ? context.state.rows?.find((r) => r.key === row.key && r.table === row.table) : undefined;
    return own(found?.cells ?? undefined, ref.slice(base.length + 1));
  }
  const [head, second, third] = ref.split('.') as [string, string, string | undefined];
  if (head === 'form') return own(context.state.answers, second);
  if (head === 'part') return own(scope.part, second);
  if (head === 'row' || head === 'steps') {
    for (let s: Scope | undefined = scope; s; s = s.outer) {
      if (head === 'row' && s.row) return own(s.row, second);
      const outputs = head === 'steps' ? own(s.outputs, second) : undefined;
      if (outputs) return own(outputs, third ?? '');
    }
    return undefined;
  }
  const { request } = context.state;
  if (head !== 'request' || !request) return undefined;
  if (second === 'requester') return request.requester;
  if (second === 'for') return request.for ?? request.requester;
  if (second === 'number') return request.number;
  if (second === 'opened') return request.opened;
  return second === 'now' ? context.now : undefined;
}

/** What stands at a place, under the name it has in the trace; nothing where there is no place. */
export const readAs = (context: RunContext, scope: Scope, name: string, ref: string | undefined): Record<string, Value> =>
  ref === undefined ? {} : { [name]: read(context, scope, ref) ?? null };

/** What a setting stands for now: a stated value, or what the place it names holds; null where that holds nothing. */
export const valueOf = (context: RunContext, scope: Scope, o: Operand): Value => (isReference(o) ? (read(context, scope, o.ref) ?? null) : o.literal);
/** The same of all inputs by name. */
export const valuesOf = (context: RunContext, scope: Scope, operands: Record<string, Operand>): Record<string, Value> =>
  Object.fromEntries(Object.entries(operands).map(([name, o]) => [name, valueOf(context, scope, o)]));

const compiled = new WeakMap<Condition, ReturnType<typeof compile>>();
/** Conditions of a plan are compiled once, as long as the plan is kept. */
export function holds(context: RunContext, scope: Scope, condition: Condition): boolean {
  let predicate = compiled.get(condition);
  if (!predicate) compiled.set(condition, (predicate = compile(condition)));
  return predicate((ref) => read(context, scope, ref));
}

/** A text with the values of now, so that it says what was true when it was sent; beside a column of a row, the row itself. */
export function snapshotOf(context: RunContext, scope: Scope, text: RichText): TextSnapshot {
  const values: Record<string, Value> = {};
  for (const x of piecesOf(text)) if (isReference(x)) for (const ref of [basePlace(x.ref), x.ref]) values[ref] = read(context, scope, ref) ?? null;
  return { text, values };
}

/** The passages whose condition holds, as one text. */
export const snapshotOfPassages = (context: RunContext, scope: Scope, all: Passage[]): TextSnapshot =>
  snapshotOf(
    context,
    scope,
    all.flatMap((p) => (!p.when || holds(context, scope, p.when) ? p.text : [])),
  );

/** Answers corrected on the way are a new version; values are read when used, so what follows sees it. */
export function correct(context: RunContext, by: string, changed: Record<string, Value>): void {
  if (Object.keys(changed).length === 0) return;
  for (const [id, value] of Object.entries(changed)) setOwn(context.state.answers, id, value);
  context.effects.push({ effect: 'answers', by, changed });
}

/** The same by somebody who may correct these fields: what that hides is empty from then on, what is looked up for it comes with it. */
export function correctOpened(
  context: RunContext,
  by: string,
  opened: readonly string[],
  { corrections = {}, lookedUp = {} }: { corrections?: Record<string, Value> | undefined; lookedUp?: Record<string, Value> | undefined },
): void {
  const changed = Object.entries(corrections).filter(([id, v]) => v === null || opened.includes(id));
  correct(context, by, { ...Object.fromEntries(changed), ...(changed.length > 0 && lookedUp) });
}

// Beginning and ending steps

/** More automatic steps than this in one advance is a runaway. */
const automaticLimit = 10_000;

/** Counts one automatic step; a runaway ends the run with that word. */
export function runaway(context: RunContext): boolean {
  if (++context.steps <= automaticLimit) return false;
  const reason = `Runaway: more than ${automaticLimit} steps without a pause.`;
  tellRequester(context, 'end', 'failed', reason);
  finish(context, 'failed', reason);
  return true;
}

/** Notes the way taken; a way that is not drawn is an empty block. */
export function takeBranch(
  context: RunContext,
  step: Step,
  activity: Activity,
  scope: Scope,
  branch: string,
  end: StepEnd = 'done',
  note?: string,
): void {
  const notTaken = branchesOf(context.room(step), step)
    .map((b) => b.id)
    .filter((id) => id !== branch);
  activity.lanes = [newLane(branch)];
  ended(context, activity, end, own(scope.outputs, step.id) ?? {}, { taken: branch, notTaken, ...(note && { note }) });
  activity.phase = 'inside';
}

/** Goes on inside the way taken. */
export function inBranch(context: RunContext, step: Step, activity: Activity, scope: Scope): Settled {
  const lane = activity.lanes?.[0];
  if (!lane) return 'done';
  const settled = context.run(blockOf(context, step, lane), lane, scope);
  if (settled === 'done') withdrawLanes(context, step, activity);
  return settled;
}

/** Runs each lane as far as it goes; stops at the first that ended the run or failed, or where `onDone` says so. */
export function runLanes(context: RunContext, step: Step, activity: Activity, scope: Scope, onDone: (lane: Lane) => boolean): Settled {
  for (const lane of [...(activity.lanes ?? [])]) {
    const settled = context.run(blockOf(context, step, lane), lane, scopeOf(context, step, activity, lane, scope));
    if (settled === 'done') {
      activity.lanes = activity.lanes!.filter((l) => l !== lane);
      if (onDone(lane)) return 'done';
    } else if (settled !== 'waiting') return settled;
  }
  return 'waiting';
}

/** What a step gives from here on, in place of what it gave before. */
export const putOutputs = (scope: Scope, step: string, values: Record<string, Value>): void => void setOwn(scope.outputs, step, values);
/** Adds to what a step gives. */
export const setOutputs = (scope: Scope, step: string, values: Record<string, Value>): void => void Object.assign(outputsOf(scope, step), values);
/** What a step gives so far, to be added to. */
export const outputsOf = (scope: Scope, step: string): Record<string, Value> => ownOr(scope.outputs, step, () => ({}));

/** Notes that a step has ended, how, with which outputs, and by which way. */
export function ended(
  context: RunContext,
  activity: Activity,
  end: StepEnd,
  outputs: Record<string, Value> = {},
  more: { taken?: string; notTaken?: string[]; note?: string } = {},
): 'done' {
  context.effects.push({ effect: 'ended', key: activity.key, end, outputs, ...more });
  activity.phase = 'settled';
  return 'done';
}

/** The step cannot go on: for a guard around it, or else for a person. */
export function fail(context: RunContext, scope: Scope, activity: Activity, cause: string): Settled {
  activity.cause = cause;
  if (scope.guarded) {
    activity.phase = 'failed';
    return { failed: activity };
  }
  activity.phase = 'stuck';
  delete activity.lanes;
  context.effects.push({ effect: 'stuck', key: activity.key, cause });
  return 'waiting';
}

/** Asks for a timer at an instant; set again under its name, it moves. */
export function setTimer(context: RunContext, activity: Activity, name: string, at: string): void {
  context.effects.push({ effect: 'timer', key: activity.key, name, at });
}
/** Asks for a timer a span of time from now. Working time depends on hours kept elsewhere: the answer sets the timer. */
export function setTimerAfter(context: RunContext, activity: Activity, name: string, span: Span): void {
  if (span.counted === 'always') setTimer(context, activity, name, addAlways(context.now, span.length));
  else wantInstant(context, activity, name, { hours: hoursOf(context), ...afterNow(context, span.length) });
}
/** So much working time (ISO 8601) from now. */
export const afterNow = (context: RunContext, length: string) => ({ from: context.now, minutes: workingMinutes(length) });
/** Asks for an instant by a name; the room of the step is given the answer (`reckoned`). The same instant is asked for once. */
export function wantInstant(context: RunContext, activity: Activity, name: string, wanted: WantedInstant): void {
  const same = context.effects.find((e) => e.effect === 'reckon' && e.key === activity.key && JSON.stringify(e.wanted) === JSON.stringify(wanted));
  if (same?.effect === 'reckon') same.names.push(name);
  else context.effects.push({ effect: 'reckon', key: activity.key, names: [name], wanted });
}

/** Closes a step that is under way and everything inside it: as failed where it failed, else as no longer needed. */
export function withdraw(context: RunContext, step: Step | undefined, a: Activity): void {
  const { effects } = context;
  const room = step && context.room(step);
  const over = a.phase === 'settled' || a.reads === 'begin' || (room?.endsWhenTaken === true && a.lanes !== undefined);
  withdrawLanes(context, step, a);
  if (step) room?.withdraw?.(context, step, a);
  if (step && room?.isTimed?.(step) && !over) effects.push({ effect: 'cancelTimers', key: a.key });
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

/** Withdraws everything under way inside a step. */
export function withdrawLanes(context: RunContext, step: Step | undefined, a: Activity): void {
  for (const lane of a.lanes ?? []) withdrawLane(context, step ? blockOf(context, step, lane) : [], lane);
  delete a.lanes;
}
/** Withdraws what is under way in one of its blocks. */
export function withdrawLane(context: RunContext, block: Block, lane: Lane): void {
  if (lane.current) withdraw(context, block[lane.at], lane.current);
  delete lane.current;
}

// The end of the run

/** The requester hears it from the engine where the plan has no words of its own. */
export function tellRequester(context: RunContext, key: string, outcome: NonNullable<RunState['outcome']>, reason: string): void {
  const subject: RichText = [[{ text: `${outcomeWords[outcome]}: request ` }, { ref: 'request.number' }]];
  const scope = rootScope(context.state);
  context.effects.push({
    effect: 'message',
    key,
    to: context.state.request!.requester.person,
    subject: snapshotOf(context, scope, subject),
    body: snapshotOf(context, scope, sentence(reason)),
  });
}

/**
 * Withdraws whatever is still open and ends the run. Where the plan has a closing for such an end, that comes first; however
 * that goes, the run ends as it was to.
 */
export function finish(context: RunContext, asked: NonNullable<RunState['outcome']>, why?: string): 'over' {
  const { state } = context;
  const { outcome, reason } = state.ending ?? { outcome: asked, reason: why };
  withdrawLane(context, context.plan.steps, state.root);
  for (const a of state.additions ?? []) withdrawLane(context, [a.step], a.lane);
  delete state.additions;
  if (state.ending) withdrawLane(context, closingOf(context, state.ending.step), state.ending.lane);
  state.root = newLane('plan');
  const closing = state.ending ? undefined : context.plan.steps.find((step) => context.room(step).closes?.(step, outcome));
  if (closing) {
    state.ending = { outcome, ...(reason && { reason }), step: closing.id, lane: newLane('ending') };
    state.shown = `${outcomeWords[outcome]}; what was begun is being wound up`;
    context.effects.push({ effect: 'mark', key: 'ending', step: closing.id, shows: 'status', words: state.shown });
    return 'over';
  }
  delete state.ending;
  state.status = 'ended';
  state.outcome = outcome;
  if (reason) state.reason = reason;
  context.effects.push({ effect: 'finished', outcome, ...(reason && { reason }) });
  return 'over';
}

/** The id of a person, where the value is one. */
export const personOf = (v: Value | undefined): string | undefined => (isPerson(v) ? v.person : undefined);
