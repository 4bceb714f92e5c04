import { own } from '../../boundary/index.ts';
import type { Value } from '../../values/index.ts';
import { partOf } from '../catalogue.ts';
import { inputFindings } from '../check.ts';
import { stop, unset } from '../finding.ts';
import { output, readOperands } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, putOutputs, read, scopeOf, valuesOf } from '../run/context.ts';
import { wantRows } from '../run/rows.ts';
import { newLane } from '../run/state.ts';
import { givenWords } from '../words.ts';
import { PartCall } from './settings.ts';

/** Parts within parts deeper than this are cut: they would call themselves. */
const deepest = 8;

/** The room of this kind; `room.ts` says what each member means. */
export const part: Room<PartCall> = {
  verb: 'Part',
  does: 'Steps that several items share',
  toRequester: 'It is worked on',
  alsoCalled: ['shared', 'sub-plan', 'reuse', 'template', 'module'],
  schema: () => PartCall,
  fresh: () => ({ inputs: {} }),
  holds: true,
  steers: true,
  flow: (step) => ({ is: 'inside', part: step.part }),
  outputs: (step, catalogue, endOf) => {
    const definition = partOf(catalogue, step.part);
    return (definition?.outputs ?? []).map((o) => {
      const inside = endOf(definition!).get(o.from.ref);
      return {
        ...output(step, o.name, o.label, o.type, inside?.always ?? false),
        ...(inside?.secret && { secret: true }),
        ...(inside?.table !== undefined && { table: inside.table }),
      };
    });
  },
  reads: (step, catalogue) => readOperands(step.inputs, (name) => partOf(catalogue, step.part)?.inputs.find((i) => i.name === name)?.label ?? name),
  lacks: (step, anywhere, catalogue) => {
    if (!step.part) return [unset(step, 'a part')];
    const definition = partOf(catalogue, step.part);
    if (!definition)
      return [
        stop(step, {
          code: 'unknown-part',
          sentence: `“${step.name}” uses a part that is not published.`,
          mend: 'Pick a part, or publish it first.',
        }),
      ];
    return inputFindings(step, step.inputs, definition.inputs, anywhere);
  },
  party: () => 'The run itself',
  sentence: (step, naming, catalogue) => {
    const definition = partOf(catalogue, step.part);
    return definition ? `Do the part “${definition.name}”${givenWords(step.inputs, definition.inputs, naming)}.` : 'Do a part, not chosen yet.';
  },
  inputs: (context, step, scope) => valuesOf(context, scope, step.inputs),
  settle: (context, step, activity, scope) => {
    const definition = own(context.plan.parts, step.part ?? '');
    if (!definition)
      return fail(
        context,
        scope,
        activity,
        step.part ? `“${step.name}” uses a part that does not exist.` : `“${step.name}” does not say which part it uses.`,
      );
    if (activity.key.split('/').length > deepest)
      return fail(context, scope, activity, `“${step.name}” is ${deepest} parts deep; it would go on for ever.`);
    activity.lanes ??= [{ ...newLane('part'), scope: { outputs: {}, part: valuesOf(context, scope, step.inputs) } }];
    const lane = activity.lanes[0]!;
    const inner = scopeOf(context, step, activity, lane, scope);
    const settled = context.run(definition.steps, lane, inner);
    if (settled !== 'done') return settled;
    const given = definition.outputs.map((o) => o.from.ref);
    if (wantRows(context, activity, inner, given, 'on')) return 'waiting';
    const outputs: Record<string, Value> = Object.fromEntries(definition.outputs.map((o) => [o.name, read(context, inner, o.from.ref) ?? null]));
    putOutputs(scope, step.id, outputs);
    return ended(context, activity, 'done', outputs);
  },
  laneBlock: (context, step) => own(context.plan.parts, step.part ?? '')?.steps ?? [],
  /** A part sees only what it is given. */
  laneScope: (_, activity, lane, outer) => ({
    outputs: lane.scope?.outputs ?? {},
    part: lane.scope?.part,
    prefix: `${activity.key.replace('#', '~')}/`,
    guarded: outer.guarded,
  }),
  bpmn: (step, from, write) => write.simple('bpmn:CallActivity', step, from, step.part ? { calledElement: write.partId(step.part) } : {}),
};
