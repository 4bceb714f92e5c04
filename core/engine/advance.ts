import { own } from '../boundary/index.ts';
import { workOut } from '../expressions/index.ts';
import { walk, type Plan } from '../plans/index.ts';
import {
  activeStepOf,
  closingOf,
  finish,
  newLane,
  roomOf,
  rootScope,
  runaway,
  tellRequester,
  activeSteps,
  type Activity,
  type Block,
  type Effect,
  type RunContext,
  type IgnoredReason,
  type Lane,
  type Scope,
  type Settled,
  type Step,
} from '../steps/index.ts';
import { beginStep } from './begin.ts';
import { causeLimit } from './causes.ts';
import { copyOf } from './copy.ts';
import type { RunEvent } from './event.ts';
import { applyTo } from './on-step.ts';
import { undoActivities, type RunState } from './state.ts';
import { beginUndo, giveBack, lateAnswer, undoEvent } from './undo.ts';

/**
 * The meaning of a plan. Takes one event and gives the next state and what must be done about it.
 * Pure: `state` and `event` are left as they were. `now` is the ISO instant of the event.
 * An event that does not fit is answered with an `ignored` effect and changes nothing.
 */
export function advance(plan: Plan, state: RunState, event: RunEvent, now: string): { state: RunState; effects: Effect[] } {
  const next = copyOf(state);
  const context: RunContext = { plan, state: next, now, effects: [], steps: 0, run: (b, l, s) => runBlock(context, b, l, s), room: roomOf, workOut };
  const ignored = apply(context, event);
  if (ignored) return { state, effects: [{ effect: 'ignored', reason: ignored }] };
  const wasOpen = state.status !== 'ended';
  const ending = context.state.ending;
  if (context.state.status === 'open') settle(context);
  // What came to its end on the way goes through its closing first.
  if (context.state.status === 'open' && context.state.ending !== ending) settle(context);
  if (wasOpen) beginUndo(context);
  return { state: context.state, effects: stillWanted(context) };
}

/** What is to be done, without the instants and rows that nobody waits for any more: their step ended in the same breath. */
function stillWanted(context: RunContext): Effect[] {
  if (!context.effects.some((e) => e.effect === 'reckon' || e.effect === 'readRows')) return context.effects;
  const open = new Set([...activeSteps(context)].map((h) => h.activity.key));
  const cancelled = (key: string, from: number) => context.effects.slice(from).some((e) => e.effect === 'cancelTimers' && e.key === key);
  return context.effects.filter((e, i) =>
    e.effect === 'reckon' ? open.has(e.key) && !cancelled(e.key, i) : e.effect === 'readRows' ? open.has(e.key) : true,
  );
}

/** The state after a list of events, from nothing. */
export function replay(plan: Plan, events: { event: RunEvent; at: string }[], from: RunState): RunState {
  return events.reduce((state, e) => advance(plan, state, e.event, e.at).state, from);
}

/** Moves everything on as far as it goes: what was added first, since milestones and the end wait for it. */
function settle(context: RunContext): void {
  const { state } = context;
  if (state.ending) return void runBlock(context, closingOf(context, state.ending.step), state.ending.lane, rootScope(state));
  for (const addition of state.additions ?? []) {
    const settled = runBlock(context, [addition.step], addition.lane, rootScope(state));
    if (settled === 'over') return;
    if (settled === 'done') state.additions = state.additions!.filter((a) => a !== addition);
  }
  if (state.additions?.length === 0) delete state.additions;
  if (runBlock(context, context.plan.steps, state.root, rootScope(state)) !== 'done' || state.status !== 'open') return;
  if (!state.additions) finish(context, 'fulfilled');
}

/** Takes the event into the activity it is for; the settling afterwards moves the plan on. */
function apply(context: RunContext, event: RunEvent): IgnoredReason | undefined {
  const { state } = context;
  if (event.type === 'begin') return begin(context, event);
  if (event.type === 'answered' && lateAnswer(context, event)) return undefined;
  // What is held outlives the request that gave it.
  if (event.type === 'givenBack') return giveBack(context, event);
  const undoing = 'key' in event ? undoActivities(state).find((a) => a.key === event.key) : undefined;
  if (undoing) return undoEvent(context, undoing, event as Parameters<typeof undoEvent>[2]) ? undefined : 'not-open';
  if (state.status !== 'open') return state.status === 'ended' ? 'ended' : 'not-open';
  if (event.type === 'withdrawn') {
    if (event.person !== state.request?.requester.person) return 'not-yours';
    if (state.ending) return 'ended';
    if (state.noReturn) return 'no-return';
    finish(context, 'withdrawn', 'Withdrawn by the requester.');
    return undefined;
  }
  if (event.type === 'added') return state.ending ? 'ended' : add(context, event);
  const active = activeStepOf(context, event.key);
  if (!active) return 'not-open';
  return byHand.has(event.type) && active.activity.phase !== 'stuck' ? 'not-open' : applyTo(context, active, event);
}
const byHand = new Set(['retried', 'skipped', 'takenOver']);

function begin(context: RunContext, event: Extract<RunEvent, { type: 'begin' }>): IgnoredReason | undefined {
  const { state } = context;
  if (state.status !== 'new') return 'begun-already';
  state.status = 'open';
  const { requester, number, zone, causes } = event;
  state.request = { requester, ...(event.for && { for: event.for }), number, zone, opened: context.now, ...(causes && { causes }) };
  state.answers = event.answers;
  if ((causes?.length ?? 0) >= causeLimit) {
    const reason = `Cut: ${causeLimit} requests began each other in a chain (${[...new Set(causes)].join(', ')}).`;
    tellRequester(context, 'begin', 'failed', reason);
    finish(context, 'failed', reason);
  }
  return undefined;
}

/** A gate or task added by an agent: it opens at once, and the milestone it belongs to waits for it. */
function add(context: RunContext, event: Extract<RunEvent, { type: 'added' }>): IgnoredReason | undefined {
  const { state } = context;
  if (event.to !== 'end' && (state.reached?.includes(event.to) || !isMilestone(context.plan.steps, event.to))) return 'milestone-ended';
  if (own(state.begun, event.step.id) !== undefined || state.additions?.some((a) => a.step.id === event.step.id)) return 'begun-already';
  (state.additions ??= []).push({ to: event.to, step: event.step, lane: newLane('added') });
  return undefined;
}
const isMilestone = (steps: Block, id: string): boolean =>
  [...walk(steps)].some(({ step }) => step.id === id && roomOf(step).waitsForAdditions === true);

// Settling

/** Runs a block until it waits, is done, fails, or the run is over. Re-entrant: it picks up where the lane stands. */
function runBlock(context: RunContext, block: Block, lane: Lane, scope: Scope): Settled {
  while (lane.at < block.length) {
    const step = block[lane.at]!;
    if (!lane.current) {
      if (runaway(context)) return 'over';
      lane.current = beginStep(context, step, scope);
    }
    const settled = settleStep(context, step, lane.current, scope);
    if (settled !== 'done') return context.state.status === 'ended' ? 'over' : settled;
    delete lane.current;
    lane.at++;
  }
  return 'done';
}

function settleStep(context: RunContext, step: Step, activity: Activity, scope: Scope): Settled {
  if (context.state.status === 'ended') return 'over';
  const { phase } = activity;
  if (phase === 'settled') return 'done';
  if (phase === 'failed') return { failed: activity };
  const room = context.room(step);
  if (!room.settle || (phase !== 'inside' && !room.settlesIn?.includes(phase))) return 'waiting';
  return room.settle(context, step, activity, scope);
}
