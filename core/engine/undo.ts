import { activeStepOf, defaultRetries, givenId, type Activity, type Given, type RunContext } from '../steps/index.ts';
import type { RunEvent } from './event.ts';

/** Which of what was given can be taken back. */
const undoable = (g: Given): boolean => g.undo !== undefined && g.undo !== 'none';

/** Whether the end of this run takes back what it gave. */
export const undoes = (context: RunContext): boolean =>
  context.state.status === 'ended' && context.state.outcome !== undefined && (context.plan.undoWhen ?? []).some((o) => o === context.state.outcome);

/** When the run has ended so: everything that was given, the last first. */
export function beginUndo(context: RunContext): void {
  if (!undoes(context)) return;
  const waiting = (context.state.given ?? []).filter(undoable).reverse();
  if (waiting.length === 0) return;
  context.state.undoing = { waiting };
  next(context);
}

function next(context: RunContext): void {
  const { undoing } = context.state;
  const given = undoing?.waiting[0];
  if (!undoing || !given) {
    delete context.state.undoing;
    return;
  }
  const key = `undo:${givenId(given)}`;
  undoing.current = { key, step: given.key, phase: 'calling' };
  context.effects.push({
    effect: 'began',
    key,
    step: given.key.replace(/#.*/, ''),
    kind: 'provision',
    name: `Undo: ${given.name}`,
    inputs: given.inputs,
  });
  call(context, given, undoing.current);
}

const call = (context: RunContext, given: Given, activity: Activity) =>
  context.effects.push({
    effect: 'call',
    key: activity.key,
    action: given.undo!,
    inputs: { ...given.outputs, ...given.inputs },
    round: activity.round ?? 0,
    retries: defaultRetries,
  });

type UndoEvent =
  | { type: 'answered' }
  | { type: 'callFailed'; cause: string; round?: number | undefined }
  | { type: 'retried' }
  | { type: 'skipped'; comment: string }
  | { type: 'takenOver'; comment: string };

/** What happens to the undo under way; false when the event does not fit. */
export function undoEvent(context: RunContext, current: Activity, event: UndoEvent): boolean {
  const { undoing } = context.state;
  const given = undoing?.waiting[0];
  if (!undoing || !given) return false;
  const over = (took: boolean, end: 'done' | 'skipped' | 'takenOver', note?: string) => {
    if (took) {
      context.effects.push({ effect: 'tookBack', given });
      context.state.given = (context.state.given ?? []).filter((g) => givenId(g) !== givenId(given));
    }
    context.effects.push({ effect: 'ended', key: current.key, end, outputs: {}, ...(note && { note }) });
    undoing.waiting.shift();
    next(context);
    return true;
  };
  // It is taken back whichever of its calls did it, and though it had been given up.
  if (event.type === 'answered') return over(true, 'done');
  if (event.type === 'callFailed' && current.phase === 'calling' && (event.round ?? current.round ?? 0) === (current.round ?? 0)) {
    current.phase = 'stuck';
    current.cause = event.cause;
    context.effects.push({ effect: 'stuck', key: current.key, cause: event.cause });
    return true;
  }
  if (current.phase !== 'stuck') return false;
  if (event.type === 'skipped') return over(false, 'skipped', event.comment);
  if (event.type === 'takenOver') return over(true, 'takenOver', event.comment);
  if (event.type !== 'retried') return false;
  current.phase = 'calling';
  current.round = (current.round ?? 0) + 1;
  delete current.cause;
  call(context, given, current);
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
  if (state.undoing) state.undoing.waiting.splice(state.undoing.current ? 1 : 0, 0, full);
  else {
    state.undoing = { waiting: [full] };
    next(context);
  }
  return true;
}
