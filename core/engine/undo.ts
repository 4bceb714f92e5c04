import { defaultRetries, type Activity, type Given, type Go } from '../steps/index.ts';
import type { RunState } from './state.ts';

/** Which of what was given can be taken back. */
const undoable = (g: Given): boolean => g.undo !== undefined && g.undo !== 'none';

/** Whether the end of this run takes back what it gave. */
export const undoes = (go: Go): boolean =>
  go.state.status === 'ended' && go.state.outcome !== undefined && (go.plan.undoWhen ?? []).some((o) => o === go.state.outcome);

/** When the run has ended so: everything that was given, the last first. */
export function beginUndo(go: Go): void {
  if (!undoes(go)) return;
  const waiting = (go.state.given ?? []).filter(undoable).reverse();
  if (waiting.length === 0) return;
  go.state.undoing = { waiting };
  next(go);
}

function next(go: Go): void {
  const { undoing } = go.state;
  const given = undoing?.waiting[0];
  if (!undoing || !given) {
    delete go.state.undoing;
    return;
  }
  const key = `undo:${given.key}`;
  undoing.current = { key, step: given.key, phase: 'calling' };
  go.effects.push({ effect: 'began', key, step: given.key.replace(/#.*/, ''), kind: 'provision', name: `Undo: ${given.name}`, inputs: given.inputs });
  call(go, given, undoing.current);
}

const call = (go: Go, given: Given, activity: Activity) =>
  go.effects.push({
    effect: 'call',
    key: activity.key,
    action: given.undo!,
    inputs: { ...given.outputs, ...given.inputs },
    round: activity.round ?? 0,
    retries: defaultRetries,
  });

type UndoEvent =
  | { type: 'answered' }
  | { type: 'callFailed'; cause: string }
  | { type: 'retried' }
  | { type: 'skipped'; comment: string }
  | { type: 'takenOver'; comment: string };

/** What happens to the undo under way; false when the event does not fit. */
export function undoEvent(go: Go, current: Activity, event: UndoEvent): boolean {
  const { undoing } = go.state;
  const given = undoing?.waiting[0];
  if (!undoing || !given) return false;
  const over = (took: boolean, end: 'done' | 'skipped' | 'takenOver', note?: string) => {
    if (took) {
      go.effects.push({ effect: 'tookBack', given });
      go.state.given = (go.state.given ?? []).filter((g) => g.key !== given.key);
    }
    go.effects.push({ effect: 'ended', key: current.key, end, outputs: {}, ...(note && { note }) });
    undoing.waiting.shift();
    next(go);
    return true;
  };
  if (event.type === 'answered' && current.phase === 'calling') return over(true, 'done');
  if (event.type === 'callFailed' && current.phase === 'calling') {
    current.phase = 'stuck';
    current.cause = event.cause;
    go.effects.push({ effect: 'stuck', key: current.key, cause: event.cause });
    return true;
  }
  if (current.phase !== 'stuck') return false;
  if (event.type === 'skipped') return over(false, 'skipped', event.comment);
  if (event.type === 'takenOver') return over(true, 'takenOver', event.comment);
  if (event.type !== 'retried') return false;
  current.phase = 'calling';
  current.round = (current.round ?? 0) + 1;
  delete current.cause;
  call(go, given, current);
  return true;
}

/**
 * The answer to a call that was cancelled under way came after all: what it gave is on record, and taken back
 * where the run has ended so.
 */
export function lateAnswer(go: Go, key: string, outputs: RunState['outputs'][string], changed: boolean): boolean {
  const { state } = go;
  const given = state.cancelled?.find((c) => c.key === key);
  if (!given) return false;
  state.cancelled = state.cancelled!.filter((c) => c !== given);
  if (!changed) return true;
  const full = { ...given, outputs };
  (state.given ??= []).push(full);
  go.effects.push({ effect: 'gave', given: full });
  if (!undoes(go) || !undoable(full)) return true;
  // It was the last to be completed, so it is the next to be taken back: behind the one under way.
  if (state.undoing) state.undoing.waiting.splice(state.undoing.current ? 1 : 0, 0, full);
  else {
    state.undoing = { waiting: [full] };
    next(go);
  }
  return true;
}
