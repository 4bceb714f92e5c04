import { leastSeconds, spanWords, type Span } from '../../calendar/index.ts';
import { conditionFeel, conditionWords } from '../../conditions/index.ts';
import { acrossSettings } from '../blocks.ts';
import type { BpmnFrom, BpmnWriter } from '../bpmn.ts';
import { stop, unset } from '../finding.ts';
import { output, readCondition } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, holds, putOutputs, runaway, setTimerAfter, withdrawLanes, type RunContext, type Scope, type Settled } from '../run/context.ts';
import { cellsReadBy, wantRows } from '../run/rows.ts';
import { newLane, type Activity } from '../run/state.ts';
import { timesWords } from '../words.ts';
import { repeatSchema, type Repeat } from './settings.ts';

function exhausted(context: RunContext, step: Repeat, activity: Activity, scope: Scope, what: string): Settled {
  context.effects.push({ effect: 'cancelTimers', key: activity.key });
  return fail(context, scope, activity, `“${step.name}” ${what}, and what it waits for does not hold.`);
}

function settle(context: RunContext, step: Repeat, activity: Activity, scope: Scope): Settled {
  for (;;) {
    activity.lanes ??= [newLane('body')];
    const settled = context.run(step.body, activity.lanes[0]!, scope);
    if (settled !== 'done') return settled;
    // What its condition reads may have changed since the round before.
    if (wantRows(context, activity, scope, cellsReadBy(context.room(step), step), 'on')) return 'waiting';
    delete activity.lanes;
    const tries = (activity.count = (activity.count ?? 0) + 1);
    if (!step.until) return fail(context, scope, activity, `“${step.name}” does not say when it is over.`);
    if (holds(context, scope, step.until)) {
      if (step.deadline || step.pause) context.effects.push({ effect: 'cancelTimers', key: activity.key });
      const outputs = { tries };
      putOutputs(scope, step.id, outputs);
      return ended(context, activity, 'done', outputs);
    }
    if (step.tries !== undefined && tries >= step.tries)
      return exhausted(context, step, activity, scope, `was tried ${tries} ${tries === 1 ? 'time' : 'times'}`);
    if (step.pause) {
      activity.phase = 'between';
      setTimerAfter(context, activity, 'again', step.pause);
      return 'waiting';
    }
    if (runaway(context)) return 'over';
  }
}

/** The room of this kind; `room.ts` says what each member means. */
export const repeat: Room<Repeat> = {
  verb: 'Repeat',
  does: 'Again until something holds',
  toRequester: 'It is tried',
  alsoCalled: ['loop', 'again', 'until', 'retry', 'poll'],
  schema: repeatSchema,
  fresh: () => ({ body: [], pause: { length: 'PT5M', counted: 'always' }, tries: 12 }),
  across: acrossSettings('body'),
  head: () => 'Each time',
  holds: true,
  steers: true,
  flow: (step) => ({
    is: 'rounds',
    body: { id: 'body', block: step.body },
    least: 1,
    inOrder: true,
    until: step.until,
    apart: step.pause ? leastSeconds(step.pause) : 0,
    // Cut by its deadline in its first round and then taken over by hand, it has not set what its body sets.
    ...(step.deadline && { cut: true }),
  }),
  outputs: (step) => [output(step, 'tries', 'Number of tries', 'number', true)],
  reads: (step) => readCondition(step.until, 'Condition that ends it'),
  conditions: (step) => (step.until ? [{ when: step.until, setting: 'The condition that ends it' }] : []),
  lacks: (step) => {
    const found = step.until ? [] : [unset(step, 'a condition that ends it')];
    if (step.tries !== undefined || step.deadline) return found;
    return [
      ...found,
      stop(step, {
        code: 'does-not-end',
        sentence: `“${step.name}” may go on for ever: it has no number of tries and no deadline.`,
        mend: 'Say how often at most, or for how long.',
        fix: { words: 'At most 100 tries', edit: { replace: { ...step, tries: 100 } } },
      }),
    ];
  },
  party: () => '',
  brief: (step) => (step.pause ? `every ${spanWords(step.pause)}` : undefined),
  sentence: (step, naming) => {
    const bounds = [step.tries !== undefined && `at most ${timesWords(step.tries)}`, step.deadline && `for at most ${spanWords(step.deadline)}`]
      .filter(Boolean)
      .join(', ');
    return `Again${step.pause ? ` every ${spanWords(step.pause)}` : ''} until ${step.until ? conditionWords(step.until, naming) : 'something not set yet'}${bounds ? `, ${bounds}` : ''}.`;
  },
  start: (context, step, activity) => {
    activity.count = 0;
    if (step.deadline) setTimerAfter(context, activity, 'deadline', step.deadline);
  },
  settle,
  on: (context, { step, activity, scope }, event) => {
    const { phase } = activity;
    if (event.type !== 'timer') return 'not-open';
    if (event.name === 'again' && phase === 'between') activity.phase = 'inside';
    else if (event.name === 'deadline' && (phase === 'between' || phase === 'inside')) {
      withdrawLanes(context, step, activity);
      exhausted(context, step, activity, scope, `ran for ${step.deadline ? spanWords(step.deadline) : 'its time'}`);
    } else return 'not-open';
    return undefined;
  },
  isTimed: (step) => step.pause !== undefined || step.deadline !== undefined,
  bpmn,
};

function bpmn(step: Repeat, from: BpmnFrom, write: BpmnWriter): BpmnFrom | undefined {
  if (step.deadline) return bpmnInTime(step, step.deadline, from, write);
  const again = write.add('bpmn:ExclusiveGateway', { id: write.idOf(step), name: step.name });
  write.flow(from, again);
  const after = write.framed(step, '_body', step.body, again);
  if (!after) return undefined;
  const test = write.add('bpmn:ExclusiveGateway', { id: write.idOf(step, '_test') });
  write.flow(after, test);
  if (step.tries !== undefined)
    write.flow(
      { node: test, when: `steps.${step.id}.tries >= ${step.tries}`, name: 'tried often enough' },
      write.failing(write.idOf(step, '_exhausted'), 'Tried often enough'),
    );
  const back: BpmnFrom = { node: test, fallback: true, name: 'again' };
  if (step.pause) {
    const pause = write.add('bpmn:IntermediateCatchEvent', {
      id: write.idOf(step, '_pause'),
      eventDefinitions: [write.spent(write.idOf(step, '_every'), step.pause)],
    });
    write.flow(back, pause);
    write.flow(pause, again);
  } else write.flow(back, again);
  return { node: test, when: step.until ? conditionFeel(step.until) : 'false' };
}

/** One that has to be over in time stands in a subprocess, which its deadline interrupts. */
function bpmnInTime(step: Repeat, deadline: Span, from: BpmnFrom, write: BpmnWriter): BpmnFrom | undefined {
  let comesOut = false;
  const node = write.subprocess(step, from, '_in_time', {}, (inside, start) => {
    const { deadline: _, ...unbound } = step;
    const out = inside.block([unbound], start);
    comesOut = out !== undefined;
    inside.closed(out, write.idOf(step, '_over'));
  });
  const late = write.add('bpmn:BoundaryEvent', {
    id: write.idOf(step, '_late'),
    attachedToRef: node,
    eventDefinitions: [write.spent(write.idOf(step, '_deadline'), deadline)],
  });
  write.flow(late, write.failing(write.idOf(step, '_too_late'), 'Too late'));
  return comesOut ? node : undefined;
}
