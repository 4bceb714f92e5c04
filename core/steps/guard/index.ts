import { own } from '../../boundary/index.ts';
import { spanWords } from '../../calendar/index.ts';
import { acrossSettings } from '../blocks.ts';
import type { BpmnElement } from '../bpmn.ts';
import { unset } from '../finding.ts';
import type { Room } from '../room.ts';
import { ended, setTimerAfter, scopeOf, withdrawLane, type RunContext, type Scope, type Settled } from '../run/context.ts';
import { newLane, type Activity } from '../run/state.ts';
import { guardSchema, type Guard } from './settings.ts';

const heads: Record<string, string> = { body: 'Try', remedy: 'If it fails', late: 'If it is late' };

function settle(context: RunContext, step: Guard, activity: Activity, scope: Scope): Settled {
  const lane = activity.lanes![0]!;
  const block = lane.id === 'body' ? step.body : (lane.id === 'late' && step.late) || step.remedy;
  const settled = context.run(block, lane, scopeOf(context, step, activity, lane, scope));
  if (typeof settled === 'object' && lane.id === 'body') return instead(context, step, activity, scope, 'remedy');
  if (settled !== 'done') return settled;
  if (lane.id === 'body' && step.deadline) context.effects.push({ effect: 'cancelTimers', key: activity.key });
  const notTaken = ['body', 'remedy', ...(step.late ? ['late'] : [])].filter((id) => id !== lane.id);
  return ended(context, activity, 'done', {}, { taken: lane.id, notTaken });
}

/** Leaves the body for the remedy, or for what is stated when it is late. */
function instead(context: RunContext, step: Guard, activity: Activity, scope: Scope, branch: 'remedy' | 'late'): Settled {
  withdrawLane(context, step.body, activity.lanes![0]!);
  if (step.deadline) context.effects.push({ effect: 'cancelTimers', key: activity.key });
  activity.lanes = [newLane(branch)];
  return settle(context, step, activity, scope);
}

/** The room of this kind; `room.ts` says what each member means. */
export const guard: Room<Guard> = {
  verb: 'Guard',
  does: 'Try, and if it fails or is late, do something else',
  toRequester: 'It is done',
  alsoCalled: ['else', 'fallback', 'deadline', 'error', 'fails', 'try', 'catch', 'timeout'],
  schema: guardSchema,
  fresh: () => ({ body: [], remedy: [] }),
  across: acrossSettings('body', 'remedy', 'late'),
  head: (_, branch) => own(heads, branch),
  holds: true,
  steers: true,
  flow: (step) => ({
    is: 'tried',
    body: { id: 'body', block: step.body },
    instead: [{ id: 'remedy', block: step.remedy, aside: true }, ...(step.late ? [{ id: 'late', block: step.late, aside: true }] : [])],
    deadline: step.deadline !== undefined,
  }),
  lacks: (step) => (step.body.length === 0 ? [unset(step, 'anything to try')] : []),
  party: () => '',
  brief: (step) => (step.deadline ? `late after ${spanWords(step.deadline)}` : undefined),
  sentence: (step) => `Try this; if it fails${step.deadline ? ` or takes more than ${spanWords(step.deadline)}` : ''}, do the other.`,
  start: (context, step, activity) => {
    activity.lanes = [newLane('body')];
    if (step.deadline) setTimerAfter(context, activity, 'deadline', step.deadline);
  },
  settle,
  on: (context, { step, activity, scope }, event) => {
    if (event.type !== 'timer' || event.name !== 'deadline' || activity.phase !== 'inside' || activity.lanes?.[0]?.id !== 'body') return 'not-open';
    instead(context, step, activity, scope, step.late ? 'late' : 'remedy');
    return undefined;
  },
  isTimed: (step) => step.deadline !== undefined,
  /** Failures in the body are the guard's. */
  laneScope: (_, __, lane, outer) => (lane.id === 'body' && !outer.guarded ? { ...outer, guarded: true } : outer),
  bpmn: (step, from, write) => {
    const node = write.subprocess(step, from, '', {}, (inside, start) => inside.closed(inside.block(step.body, start), write.idOf(step, '_end')));
    const failed = write.add('bpmn:BoundaryEvent', {
      id: write.idOf(step, '_fails'),
      attachedToRef: node,
      eventDefinitions: [write.make('bpmn:ErrorEventDefinition', { id: write.idOf(step, '_error'), errorRef: write.error('failed') })],
    });
    const ends = [node, write.block(step.remedy, failed)];
    if (step.deadline) {
      const late = write.add('bpmn:BoundaryEvent', {
        id: write.idOf(step, '_late'),
        attachedToRef: node,
        eventDefinitions: [write.spent(write.idOf(step, '_deadline'), step.deadline)],
      });
      ends.push(write.block(step.late ?? write.copyOf(step.remedy), late) as BpmnElement);
    }
    return write.merge(write.idOf(step, '_join'), ends);
  },
};
