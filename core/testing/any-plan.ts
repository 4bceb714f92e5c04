import fc from 'fast-check';
import { passages, partUsed, walk, type Block, type Catalogue, type Part, type Plan, type Step, type StepKind } from '../plans/index.ts';
import { any as askBack } from '../steps/ask-back/any.ts';
import { any as choose } from '../steps/choose/any.ts';
import { any as closing } from '../steps/closing/any.ts';
import { any as find } from '../steps/find/any.ts';
import { any as finish } from '../steps/finish/any.ts';
import { any as forEach } from '../steps/for-each/any.ts';
import { any as gate } from '../steps/gate/any.ts';
import { any as guard } from '../steps/guard/any.ts';
import { any as invite } from '../steps/invite/any.ts';
import { any as mark } from '../steps/mark/any.ts';
import { any as part } from '../steps/part/any.ts';
import { any as pause } from '../steps/pause/any.ts';
import { any as provision } from '../steps/provision/any.ts';
import { any as repeat } from '../steps/repeat/any.ts';
import { any as task } from '../steps/task/any.ts';
import { any as tell } from '../steps/tell/any.ts';
import { any as together } from '../steps/together/any.ts';
import { any as workOut } from '../steps/work-out/any.ts';
import { any as write } from '../steps/write/any.ts';
import { idFrom } from '../values/index.ts';
import { names, type AnyStep, type Made, type Shape } from './drawn.ts';
import { catalogue, gate as asks, step, tell as says } from './samples.ts';

/**
 * Valid plans of any shape: every step kind, and every setting there is, drawn by the room of the kind. The tests of the
 * engine, the checks, the runtime, the formats and the soak all live on these plans. A kind left out does not compile.
 */
const any: Record<StepKind, AnyStep> = {
  tell,
  write,
  invite,
  provision,
  task,
  askBack,
  find,
  workOut,
  pause,
  mark,
  finish,
  part,
  gate,
  choose,
  together,
  forEach,
  repeat,
  guard,
  closing,
};
const leaves: StepKind[] = ['tell', 'write', 'invite', 'provision', 'task', 'askBack', 'find', 'workOut', 'pause', 'mark', 'finish', 'part'];
const compounds: StepKind[] = ['gate', 'choose', 'together', 'forEach', 'repeat', 'guard'];

const named = (made: fc.Arbitrary<Made>): fc.Arbitrary<Shape> =>
  fc.record({
    make: made,
    forRequester: fc.oneof({ arbitrary: fc.constant(undefined), weight: 4 }, { arbitrary: names, weight: 1 }),
    name: fc.oneof({ arbitrary: fc.constant(undefined), weight: 4 }, { arbitrary: names, weight: 1 }),
  });

/** A step of one of these kinds. */
const one = (kinds: StepKind[], inner: fc.Arbitrary<Shape[]>) => named(fc.oneof(...kinds.map((k) => any[k](inner))));

const anyBlock: fc.Arbitrary<Shape[]> = fc.letrec<{ block: Shape[]; step: Shape }>((tie) => ({
  block: fc.array(tie('step'), { minLength: 0, maxLength: 3 }),
  step: fc.oneof(
    { maxDepth: 3, depthSize: 'small' },
    one(leaves, tie('block') as fc.Arbitrary<Shape[]>),
    one(compounds, tie('block') as fc.Arbitrary<Shape[]>),
  ),
})).block as fc.Arbitrary<Shape[]>;

/** The parts that generated plans use: one that only tells, one that asks, gives and hands something back. */
export const parts: Record<string, Part> = {
  plain: {
    name: 'Plain words',
    inputs: [{ name: 'who', label: 'Who', type: 'person', required: true }],
    outputs: [],
    steps: [{ ...says('words', 'Say it'), to: { ref: 'part.who' } } as Step],
  },
  giving: {
    name: 'Ask and give',
    inputs: [{ name: 'who', label: 'Who', type: 'person', required: true }],
    outputs: [{ name: 'rounds', label: 'Rounds', type: 'number', from: { ref: 'steps.sum.value' } }],
    steps: [
      asks({ id: 'asked', name: 'Asked inside', approvers: { from: 'managerOf', person: { ref: 'part.who' } }, declined: [] }),
      step('task', 'hand', { assignee: { team: 'desk' }, instructions: passages('Hand it over'), checklist: [], fields: [] }),
      step('workOut', 'sum', { feel: '1 + 1', type: 'number' }),
    ],
  },
};

/** The catalogue that generated plans are checked by. */
export const wideCatalogue: Catalogue = { ...catalogue, parts };

export const anyPlan: fc.Arbitrary<Plan> = fc
  .record({
    block: anyBlock,
    // Where an end is to lead: among the steps of the plan itself.
    closing: fc.option(fc.record({ at: fc.nat(3), step: one(['closing'], anyBlock) })),
    undoWhen: fc.subarray(['failed', 'declined', 'lapsed', 'withdrawn'] as const),
    // Ids as steps of a plan begun anew would get them: none of those that were taken out is given again.
    gone: fc.uniqueArray(fc.constantFrom('s1', 's2', 's7', 'twice', 'added', 'gone'), { maxLength: 3 }),
  })
  .map(({ block, closing, undoWhen, gone }) => {
    const ids = new Set<string>(gone);
    const used = new Set<string>();
    let n = 0;
    const build = (shapes: Shape[]): Block =>
      shapes.map(({ make, name, forRequester }) => {
        let id = name === undefined ? `s${++n}` : idFrom(name, ids);
        while (name === undefined && ids.has(id)) id = `s${++n}`;
        ids.add(id);
        const made = make(id, build);
        const said = name === undefined ? made.name : used.has(name) ? `${name} ${id}` : name;
        used.add(said);
        return { ...made, name: said, ...(forRequester !== undefined && { forRequester }) };
      });
    const steps = build(closing ? block.toSpliced(closing.at, 0, closing.step) : block);
    const needs = new Set([...walk(steps)].flatMap(({ step: s }) => partUsed(s) ?? []));
    return {
      steps,
      ...(needs.size > 0 && { parts: Object.fromEntries([...needs].map((p) => [p, parts[p]!])) }),
      ...(undoWhen.length > 0 && { undoWhen }),
      ...(gone.length > 0 && { retired: gone, wereCalled: gone.map((id) => ({ id, name: `It was ${id}` })) }),
    };
  });
