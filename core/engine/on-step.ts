import { ended, setOutputs, setTimer, type Go, type Here, type IgnoredReason, type StepEvent } from '../steps/index.ts';
import { start } from './begin.ts';

/** Takes an event into the step it is for. What people do to any stuck step is done here; the rest is the step's own. */
export function applyTo(go: Go, here: Here, event: StepEvent): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  const room = go.room(step);
  switch (event.type) {
    case 'retried':
      activity.round = (activity.round ?? 0) + 1;
      delete activity.cause;
      delete activity.list;
      go.effects.push({ effect: 'retry', key: activity.key });
      start(go, step, activity, scope);
      return undefined;
    case 'skipped':
      if (room.isFirm) return 'not-allowed';
      ended(go, activity, 'skipped', {}, { note: event.comment });
      return undefined;
    case 'takenOver':
      if (room.isFirm) return 'not-allowed';
      setOutputs(scope, step.id, event.outputs);
      room.doneByHand?.(go, step, activity, event.outputs);
      ended(go, activity, 'takenOver', event.outputs, { note: event.comment });
      return undefined;
    case 'reckoned':
      for (const name of event.names) {
        if (room.reckoned) room.reckoned(go, here, name, event.at);
        else if (event.at !== null) setTimer(go, activity, name, event.at);
      }
      return undefined;
    default:
      return room.on ? room.on(go, here, event) : 'not-open';
  }
}
