import { ended, setOutputs, setTimer, type RunContext, type ActiveStep, type IgnoredReason, type StepEvent } from '../steps/index.ts';
import { goOnWithRows, startAgain } from './begin.ts';

/** Takes an event into the step it is for. What people do to any stuck step is done here; the rest is the step's own. */
export function applyTo(context: RunContext, here: ActiveStep, event: StepEvent): IgnoredReason | undefined {
  const { step, activity, scope } = here;
  const room = context.room(step);
  switch (event.type) {
    case 'retried':
      activity.round = (activity.round ?? 0) + 1;
      delete activity.cause;
      delete activity.list;
      context.effects.push({ effect: 'retry', key: activity.key });
      startAgain(context, step, activity, scope);
      return undefined;
    case 'skipped':
      if (room.isFirm) return 'not-allowed';
      ended(context, activity, 'skipped', {}, { note: event.comment });
      return undefined;
    case 'takenOver':
      if (room.isFirm) return 'not-allowed';
      setOutputs(scope, step.id, event.outputs);
      room.doneByHand?.(context, step, activity, event.outputs);
      ended(context, activity, 'takenOver', event.outputs, { note: event.comment });
      return undefined;
    case 'rowsRead':
      if (activity.phase !== 'reading') return 'not-open';
      goOnWithRows(context, here, event.rows);
      return undefined;
    case 'reckoned':
      for (const name of event.names) {
        if (room.reckoned) room.reckoned(context, here, name, event.at);
        else if (event.at !== null) setTimer(context, activity, name, event.at);
      }
      return undefined;
    default:
      return room.on ? room.on(context, here, event) : 'not-open';
  }
}
