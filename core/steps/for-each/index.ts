import type { Naming } from '../../conditions/index.ts';
import { isEntry, listTypes, type Value } from '../../values/index.ts';
import { acrossSettings } from '../blocks.ts';
import { typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { output, readOne } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, putOutputs, read, readAs, runLanes } from '../run/context.ts';
import { newLane } from '../run/state.ts';
import { forEachSchema, type ForEach } from './settings.ts';

const listWords = (step: ForEach, naming: Naming, unnamed: string) => (step.list ? naming.place(step.list.ref) : unnamed);

/** What a round knows of its row: the value, which one it is, and of a line what it holds by its columns. */
const rowOf = (value: Value, number: number): Record<string, Value> => ({ ...(isEntry(value) && value.entry), value, number });

/** The room of this kind; `room.ts` says what each member means. */
export const forEach: Room<ForEach> = {
  verb: 'For each',
  does: 'The same steps for every row of a list',
  toRequester: 'Several things are done',
  alsoCalled: ['each', 'every', 'list', 'rows', 'all of'],
  schema: forEachSchema,
  fresh: () => ({ body: [] }),
  across: acrossSettings('body'),
  head: (step, _, naming) => `Each of ${listWords(step, naming, 'the list')}`,
  holds: true,
  steers: true,
  flow: (step) => ({ is: 'rounds', body: { id: 'body', block: step.body }, least: 0, inOrder: step.atOnce === 1, rows: { list: step.list } }),
  outputs: (step) => [output(step, 'count', 'Number of rows', 'number', true)],
  // A list without a value is a list of no rows.
  reads: (step) => readOne(step.list?.ref, 'List').map((r) => ({ ...r, needed: false })),
  lacks: (step, anywhere) => (step.list ? typeFindings(step, 'List', step.list.ref, listTypes, anywhere) : [unset(step, 'a list')]),
  party: () => '',
  sentence: (step, naming) => {
    const how = step.atOnce === undefined ? 'all at once' : step.atOnce === 1 ? 'one after another' : `up to ${step.atOnce} at once`;
    return `For each of ${listWords(step, naming, 'a list not chosen yet')}, ${how}.`;
  },
  inputs: (context, step, scope) => readAs(context, scope, 'list', step.list?.ref),
  settle: (context, step, activity, scope) => {
    if (!activity.list) {
      if (!step.list) return fail(context, scope, activity, `“${step.name}” has no list set.`);
      const list = read(context, scope, step.list.ref);
      activity.list = Array.isArray(list) ? list : list === undefined || list === null || list === '' ? [] : [list];
      activity.lanes = [];
      activity.count = 0;
    }
    const { list } = activity;
    for (;;) {
      while (activity.count! < list.length && activity.lanes!.length < (step.atOnce ?? Infinity)) {
        const number = (activity.count = activity.count! + 1);
        activity.lanes!.push({ ...newLane(String(number)), scope: { outputs: {}, row: rowOf(list[number - 1]!, number) } });
      }
      const before = activity.lanes!.length;
      const settled = runLanes(context, step, activity, scope, () => false);
      if (settled === 'over' || typeof settled === 'object') return settled;
      if (activity.lanes!.length === before || activity.count === list.length) break;
    }
    if (activity.lanes!.length > 0) return 'waiting';
    const outputs = { count: list.length };
    putOutputs(scope, step.id, outputs);
    return ended(context, activity, 'done', outputs);
  },
  laneBlock: (_, step) => step.body,
  laneScope: (_, __, lane, outer) =>
    lane.scope ? { outputs: lane.scope.outputs, row: lane.scope.row, outer, part: outer.part, prefix: outer.prefix, guarded: outer.guarded } : outer,
  bpmn: (step, from, write) => {
    const loopCharacteristics = write.make('bpmn:MultiInstanceLoopCharacteristics', {
      isSequential: step.atOnce === 1,
      loopCardinality: write.expression(step.list ? `count(${step.list.ref})` : '0'),
    });
    return write.subprocess(step, from, '', { loopCharacteristics }, (inside, start) =>
      inside.closed(inside.block(step.body, start), write.idOf(step, '_end')),
    );
  },
};
