import { activeStepOf, capital, defaultRetries, givenId, type Activity, type Given, type IgnoredReason, type RunContext } from '../steps/index.ts';
import type { RichText, Value } from '../values/index.ts';
import type { RunEvent } from './event.ts';

/** Which of what was given a system can take back. */
const undoable = (g: Given): boolean => g.undo !== undefined && g.undo !== 'none';

/** Whether the end of this run takes back what it gave. */
export const undoes = (context: RunContext): boolean =>
  context.state.status === 'ended' && context.state.outcome !== undefined && (context.plan.undoWhen ?? []).some((o) => o === context.state.outcome);

/** What is being taken back already, or is about to be. */
const underWay = ({ undoing }: RunContext['state']): Given[] => [...(undoing?.waiting ?? []), ...(undoing?.aside ?? []).map((a) => a.given)];

/** When the run has ended so: everything that was given, the last first. What is being taken back already stays before it. */
export function beginUndo(context: RunContext): void {
  if (!undoes(context)) return;
  const under = context.state.undoing?.waiting ?? [];
  const already = new Set(underWay(context.state).map(givenId));
  const waiting = (context.state.given ?? []).filter((g) => undoable(g) && !already.has(givenId(g))).reverse();
  if (waiting.length > 0) takeBack(context, [...under, ...waiting]);
}

/** One thing is given back, or taken from whoever has it, whatever has become of the request. */
export function giveBack(context: RunContext, event: Extract<RunEvent, { type: 'givenBack' }>): IgnoredReason | undefined {
  const { state } = context;
  const given = state.given?.find((g) => givenId(g) === event.id);
  const under = state.undoing?.waiting ?? [];
  if (!given || underWay(state).some((g) => givenId(g) === event.id)) return 'not-open';
  if (event.gone) {
    noted(context, given, event.why);
    return undefined;
  }
  takeBack(context, [...under, { ...given, why: event.why, ...(event.hand !== undefined && { hand: event.hand }) }]);
  return undefined;
}

/** The key under which something is taken back: each going at it has one of its own. */
const undoKey = (given: Given): string => `undo:${givenId(given)}${given.left ? `~${given.left}` : ''}`;

const beganUndo = (given: Given) => {
  const { name, inputs } = given;
  return { effect: 'began', key: undoKey(given), step: given.key.replace(/#.*/, ''), kind: 'provision', name: `Undo: ${name}`, inputs } as const;
};

/** It is gone without our doing: that stands in the trace, and nobody holds it any more. */
function noted(context: RunContext, given: Given, note: string): void {
  const { state, effects } = context;
  effects.push(beganUndo(given), { effect: 'tookBack', given });
  state.given = (state.given ?? []).filter((g) => givenId(g) !== givenId(given));
  effects.push({ effect: 'ended', key: undoKey(given), end: 'takenOver', outputs: {}, note });
}

function takeBack(context: RunContext, waiting: Given[]): void {
  context.state.undoing = { ...context.state.undoing, waiting };
  if (!context.state.undoing.current) next(context);
}

function next(context: RunContext): void {
  const { undoing } = context.state;
  const given = undoing?.waiting[0];
  if (!undoing || !given) {
    if (!undoing?.aside?.length) delete context.state.undoing;
    return;
  }
  undoing.current = { key: undoKey(given), step: given.key, phase: 'calling' };
  context.effects.push(beganUndo(given));
  begin(context, given, undoing.current);
}

/** The action that takes it back is called; where there is none, somebody does it. */
function begin(context: RunContext, given: Given, activity: Activity): void {
  if (!undoable(given)) return byHand(context, given, activity, `Nothing takes back what “${given.name}” gave.`);
  activity.phase = 'calling';
  context.effects.push({
    effect: 'call',
    key: activity.key,
    action: given.undo!,
    inputs: { ...given.outputs, ...given.inputs },
    round: activity.round ?? 0,
    retries: defaultRetries,
  });
}

/** A task for whoever answers for the system; where nobody does it stays stuck, where an administrator finds it. */
function byHand(context: RunContext, given: Given, activity: Activity, cause: string): void {
  if (given.hand === undefined) {
    activity.phase = 'stuck';
    activity.cause = cause;
    context.effects.push({ effect: 'stuck', key: activity.key, cause });
    return setAside(context, given, activity);
  }
  activity.phase = 'working';
  const values: Record<string, Value> = {};
  const lines: RichText = [...(given.why ? [[{ text: given.why }]] : []), [{ text: cause }]];
  for (const [name, value] of Object.entries({ ...given.inputs, ...given.outputs })) {
    values[`given.${name}`] = value;
    lines.push([{ text: `${capital(name)}: ` }, { ref: `given.${name}` }]);
  }
  context.effects.push({
    effect: 'openTask',
    key: activity.key,
    name: `Take back: ${given.name}`,
    assignee: { person: given.hand },
    instructions: { text: lines, values },
    checklist: [],
    fields: [],
  });
  setAside(context, given, activity);
}

/** What somebody gave back by itself waits for a person, and what others give back goes on. The end of a run takes back in its order, one by one. */
function setAside(context: RunContext, given: Given, activity: Activity): void {
  const { undoing } = context.state;
  if (!undoing || undoing.current !== activity || undoes(context)) return;
  (undoing.aside ??= []).push({ given, activity });
  undoing.waiting.shift();
  delete undoing.current;
  next(context);
}

type UndoEvent =
  | { type: 'answered' }
  | { type: 'callFailed'; cause: string; round?: number | undefined; hand?: string | undefined }
  | { type: 'taskDone'; person: string; values: Record<string, Value> }
  | { type: 'retried' }
  | { type: 'skipped'; comment: string }
  | { type: 'takenOver'; comment: string };

/** What happens to the undo under way; false when the event does not fit. */
export function undoEvent(context: RunContext, current: Activity, event: UndoEvent): boolean {
  const { undoing } = context.state;
  const isAside = undoing?.aside?.find((a) => a.activity === current);
  const given = isAside ? isAside.given : undoing?.waiting[0];
  if (!undoing || !given) return false;
  const over = (took: boolean, end: 'done' | 'skipped' | 'takenOver', note = given.why) => {
    if (took) {
      context.effects.push({ effect: 'tookBack', given });
      context.state.given = (context.state.given ?? []).filter((g) => givenId(g) !== givenId(given));
    } else {
      context.effects.push({ effect: 'leftHeld', given });
      for (const g of context.state.given ?? []) if (givenId(g) === givenId(given)) g.left = (g.left ?? 0) + 1;
    }
    context.effects.push({ effect: 'ended', key: current.key, end, outputs: {}, ...(note && { note }) });
    if (isAside) undoing.aside = undoing.aside!.filter((a) => a !== isAside);
    else undoing.waiting.shift();
    if (!isAside) delete undoing.current;
    if (!undoing.current) next(context);
    return true;
  };
  // It is taken back whichever of its calls did it, and though it had been given up or given to somebody.
  if (event.type === 'answered') {
    if (current.phase === 'working') context.effects.push({ effect: 'closeTask', key: current.key, result: 'withdrawn' });
    return over(true, 'done');
  }
  if (event.type === 'taskDone' && current.phase === 'working') {
    context.effects.push({ effect: 'closeTask', key: current.key, result: 'done', by: event.person, values: event.values });
    return over(true, 'takenOver');
  }
  if (event.type === 'callFailed' && current.phase === 'calling' && (event.round ?? current.round ?? 0) === (current.round ?? 0)) {
    if (event.hand !== undefined) given.hand = event.hand;
    byHand(context, given, current, event.cause);
    return true;
  }
  if (current.phase !== 'stuck') return false;
  if (event.type === 'skipped') return over(false, 'skipped', event.comment);
  if (event.type === 'takenOver') return over(true, 'takenOver', event.comment);
  if (event.type !== 'retried') return false;
  current.round = (current.round ?? 0) + 1;
  delete current.cause;
  context.effects.push({ effect: 'retry', key: current.key });
  begin(context, given, current);
  return true;
}

/**
 * The answer to a call that was cancelled under way, or given up, came after all: what it gave is on record, and taken back
 * where the run has ended so. A step that is stuck for want of this very answer takes it itself.
 */
export function lateAnswer(context: RunContext, event: Extract<RunEvent, { type: 'answered' }>): boolean {
  const { key, round, outputs, changed = true } = event;
  const { state } = context;
  const given = state.cancelled?.find((c) => c.key === key && (round === undefined || (c.round ?? round) === round));
  if (!given) return false;
  state.cancelled = state.cancelled!.filter((c) => c !== given);
  const waits = activeStepOf(context, key)?.activity;
  if (waits?.phase === 'stuck' && (waits.round ?? 0) === (given.round ?? 0)) return false;
  if (!changed) return true;
  const full = { ...given, outputs };
  (state.given ??= []).push(full);
  context.effects.push({ effect: 'gave', given: full });
  if (!undoes(context) || !undoable(full)) return true;
  // It was the last to be completed, so it is the next to be taken back: behind the one under way.
  const under = state.undoing?.waiting ?? [];
  takeBack(context, state.undoing?.current ? [under[0]!, full, ...under.slice(1)] : [full, ...under]);
  return true;
}
