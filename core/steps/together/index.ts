import { unset } from '../finding.ts';
import type { Room } from '../room.ts';
import { ended, runLanes, withdrawLanes } from '../run/context.ts';
import { newLane } from '../run/state.ts';
import { togetherSchema, type Together } from './settings.ts';

/** The room of this kind; `room.ts` says what each member means. */
export const together: Room<Together> = {
  verb: 'Together',
  does: 'Several branches side by side',
  toRequester: 'Several things are done',
  alsoCalled: ['parallel', 'side by side', 'at once', 'fork', 'simultaneous'],
  schema: togetherSchema,
  fresh: () => ({
    join: 'all',
    branches: [
      { id: 'branch1', name: 'First branch', block: [] },
      { id: 'branch2', name: 'Second branch', block: [] },
    ],
  }),
  across: (step, change) => ({ ...step, branches: step.branches.map((b) => ({ ...b, block: change({ id: b.id, block: b.block }) })) }),
  head: (step, branch) => step.branches.find((b) => b.id === branch)?.name,
  holds: true,
  steers: true,
  flow: (step) => ({ is: 'beside', join: step.join, ways: step.branches.map(({ id, block }) => ({ id, block })) }),
  lacks: (step) => (step.branches.length < 2 ? [unset(step, 'two branches')] : []),
  party: () => '',
  sentence: (step) => `Do these side by side; go on when ${step.join === 'all' ? 'all are done' : 'the first is done, and leave the others'}.`,
  settle: (context, step, activity, scope) => {
    activity.lanes ??= step.branches.map((b) => newLane(b.id));
    let first: string | undefined;
    const settled = runLanes(context, step, activity, scope, (lane) => {
      first = lane.id;
      return step.join === 'first';
    });
    if (settled === 'over' || typeof settled === 'object') return settled;
    if (first !== undefined && step.join === 'first') {
      const notTaken = step.branches.map((b) => b.id).filter((id) => id !== first);
      withdrawLanes(context, step, activity);
      return ended(context, activity, 'done', {}, { taken: first, notTaken });
    }
    return activity.lanes.length === 0 ? ended(context, activity, 'done') : 'waiting';
  },
  bpmn: (step, from, write) => {
    if (step.join === 'all') {
      const fork = write.simple('bpmn:ParallelGateway', step, from);
      return write.merge(
        write.idOf(step, '_join'),
        step.branches.map((b) => write.framed(step, `_${b.id}`, b.block, fork)),
        'bpmn:ParallelGateway',
      );
    }
    // The first branch to end terminates the subprocess, and with it the others.
    return write.subprocess(step, from, '', {}, (inside, start) => {
      const fork = inside.add('bpmn:ParallelGateway', { id: write.idOf(step, '_fork') });
      inside.flow(start, fork);
      step.branches.forEach((b) => inside.closed(inside.block(b.block, fork), write.idOf(step, `_${b.id}_first`), true));
    });
  },
};
