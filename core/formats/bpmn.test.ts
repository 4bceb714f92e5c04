import { EventEmitter } from 'node:events';
import { Engine } from 'bpmn-engine';
import { BpmnModdle } from 'bpmn-moddle';
import { evaluate } from 'feelin';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openActivities } from '../engine/index.ts';
import { passages, walk, type Block, type Plan, type Step } from '../plans/index.ts';
import { play } from '../testing/player.ts';
import { anyPlan, wideCatalogue } from '../testing/any-plan.ts';
import { answers, joinGroup, step, wideForm, tell } from '../testing/samples.ts';
import { bpmnOf, feelLanguage } from './index.ts';
import { checkItem } from '../checks/index.ts';

// Held against bpmn-moddle as an independent reader, and bpmn-engine as an independent interpreter, of BPMN 2.0.

const read = async (xml: string) => (await new BpmnModdle().fromXML(xml)).warnings.map((w) => w.message);

describe('plans as BPMN 2.0', () => {
  it('are read without warnings, whatever the plan, with a diagram of every element', async () => {
    expect(await read(await bpmnOf(joinGroup, 'Join a group', (s) => `Does ${s.name} & <more>`))).toEqual([]);
    await fc.assert(
      fc.asyncProperty(anyPlan, async (plan) => {
        const xml = await bpmnOf(plan, 'Generated');
        expect(await read(xml)).toEqual([]);
        // What is never reached has no flow that could lead to it.
        if (!checkItem(wideForm, plan, wideCatalogue).some((f) => f.code === 'never-reached'))
          for (const { step: s } of walk(plan.steps)) expect(xml).toContain(`id="s_${s.id}"`);
        expect(xml).toContain('bpmndi:BPMNDiagram');
      }),
      { numRuns: 40 },
    );
  });

  it('give each copy of a block ids of its own: a remedy that stands for what is late, within another', async () => {
    const guard = (id: string, body: Block, remedy: Block) => step('guard', id, { body, remedy, deadline: { length: 'PT2H', counted: 'working' } });
    const inner = guard('inner', [tell('b', 'B')], [tell('c', 'C')]);
    const xml = await bpmnOf({ steps: [guard('outer', [tell('a', 'A')], [inner])] }, 'Nested');
    expect(await read(xml)).toEqual([]);
    // Once as it stands, once for the inner deadline, and both again for the outer one.
    expect(xml.match(/<bpmn:\w+ id="s_c[^"]*" name="C"/g)).toHaveLength(4);
  });

  it('are executed by bpmn-engine with the same steps in the same order as by ours', async () => {
    let longest = 0;
    await fc.assert(
      fc.asyncProperty(executable, async (plan) => {
        const ours = ourOrder(plan);
        longest = Math.max(longest, ours.length);
        const theirs = await theirOrder(await bpmnOf(plan, 'Generated'));
        // Branches side by side have no order between them; within each branch the order is the plan's.
        for (const lane of lanesOf(plan.steps)) expect(theirs.filter((id) => lane.has(id))).toEqual(ours.filter((id) => lane.has(id)));
        expect([...theirs].sort()).toEqual([...ours].sort());
      }),
      { numRuns: 50 },
    );
    expect(longest).toBeGreaterThan(8);
  }, 120_000);
});

/** Plans of tasks, choices, branches side by side, repeats and for-each one after another. */
type Shape = 'task' | { choose: Shape[][]; otherwise: boolean } | { together: Shape[][] } | { repeat: Shape[]; times: number } | { forEach: Shape[] };
const executable: fc.Arbitrary<Plan> = fc
  .letrec<{ block: unknown; step: unknown }>((tie) => {
    const inner = tie('block') as fc.Arbitrary<Shape[]>;
    return {
      block: fc.array(tie('step'), { minLength: 1, maxLength: 3 }),
      step: fc.oneof(
        { maxDepth: 3, depthSize: 'small' },
        fc.constant('task'),
        fc.record({ choose: fc.array(inner, { minLength: 1, maxLength: 3 }), otherwise: fc.boolean() }),
        fc.record({ together: fc.array(inner, { minLength: 2, maxLength: 3 }) }),
        fc.record({ repeat: inner, times: fc.integer({ min: 1, max: 3 }) }),
        fc.record({ forEach: inner }),
      ),
    };
  })
  .block.map((shape) => ({ steps: build(shape as Shape[], { n: 0 }) }));

function build(shapes: Shape[], count: { n: number }): Block {
  return shapes.map((shape): Step => {
    const id = `x${++count.n}`;
    if (shape === 'task') return task(id);
    if ('choose' in shape) {
      const when = (i: number) => ({ compare: 'is', left: { ref: 'form.kind' }, right: { literal: ['project', 'daily', 'daily'][i]! } }) as const;
      return step('choose', id, {
        cases: shape.choose.map((b, i) => ({ id: `c${i}`, name: `C${i}`, when: when(i), block: build(b, count) })),
        ...(shape.otherwise && { otherwise: [task(`${id}o`)] }),
      });
    }
    if ('together' in shape)
      return step('together', id, { join: 'all', branches: shape.together.map((b, i) => ({ id: `b${i}`, name: `B${i}`, block: build(b, count) })) });
    if ('forEach' in shape) return step('forEach', id, { list: { ref: 'form.crew' }, atOnce: 1, body: build(shape.forEach, count) });
    const counter = task(`${id}t`);
    // Counts its own rounds over the whole run, so that it ends the first time it is met often enough.
    return step('repeat', id, {
      body: [...build(shape.repeat, count), counter],
      until: { compare: 'atLeast', left: { ref: `steps.${id}t.n` }, right: { literal: shape.times } },
      tries: 50,
    });
  });
}
const task = (id: string): Step => step('task', id, { assignee: { team: 'desk' }, instructions: passages('Do'), checklist: [], fields: [] });

function ourOrder(plan: Plan): string[] {
  const player = play(plan);
  const order: string[] = [];
  const times = new Map<string, number>();
  for (let a = openActivities(player.state())[0]; a; a = openActivities(player.state())[0]) {
    order.push(a.step);
    const n = (times.get(a.step) ?? 0) + 1;
    times.set(a.step, n);
    player.feed({ type: 'taskDone', key: a.key, person: 'x', values: { n } });
  }
  expect(player.state().outcome).toBe('fulfilled');
  return order;
}

/** Runs the file in bpmn-engine; its FEEL conditions are answered by feelin over the same facts. */
async function theirOrder(xml: string): Promise<string[]> {
  const order: string[] = [];
  const times = new Map<string, number>();
  const facts = { form: answers as Record<string, unknown>, steps: {} as Record<string, { n: number }> };
  const truth = (feel: string) => {
    const context = { form: { ...facts.form, crew: [1, 2, 3] }, steps: facts.steps };
    return (evaluate(feel, context) as { value: unknown }).value;
  };
  const scripts = new Map<string, string>();
  const engine = new Engine({
    name: 'generated',
    // A number of rounds is an expression of bpmn-engine's own unless it is written out: FEEL is worked out here, before.
    source: xml.replace(/(<bpmn:loopCardinality[^>]*>)([^<]*)</g, (_, tag: string, feel: string) => `${tag}${String(truth(feel))}<`),
    scripts: {
      register: ({ id, type, behaviour }: { id: string; type: string; behaviour: { conditionExpression?: { body: string; language: string } } }) => {
        if (type !== 'bpmn:SequenceFlow' || !behaviour.conditionExpression) return;
        expect(behaviour.conditionExpression.language).toBe(feelLanguage);
        scripts.set(id, behaviour.conditionExpression.body);
      },
      getScript: (_language: string, { id }: { id: string }) => {
        const feel = scripts.get(id);
        return feel === undefined
          ? undefined
          : { execute: (_scope: unknown, done: (e: null, taken: boolean) => void) => done(null, truth(feel) === true) };
      },
    } as never,
  });
  const listener = new EventEmitter();
  listener.on('activity.wait', (api: { id: string; signal: () => void }) => {
    const id = api.id.replace(/^s_/, '');
    order.push(id);
    const n = (times.get(id) ?? 0) + 1;
    times.set(id, n);
    facts.steps[id] = { n };
    api.signal();
  });
  await new Promise<void>((done, failed) => {
    AbortSignal.timeout(5000).addEventListener('abort', () => failed(new Error(`bpmn-engine came to no end after ${order.join(' ')}`)));
    engine.once('end', () => done());
    engine.once('error', failed);
    engine.execute({ listener } as never).catch(failed);
  });
  return order;
}

/** The steps that stand in an order to each other: along each way down the plan, without entering several branches at once. */
function lanesOf(steps: Block): Set<string>[] {
  const inside = (block: Block): Set<string>[] => {
    const lanes: Set<string>[] = [];
    const main = new Set<string>();
    for (const s of block) {
      if (s.kind === 'task') main.add(s.id);
      if (s.kind === 'together') for (const b of s.branches) lanes.push(...inside(b.block));
      if (s.kind === 'choose')
        for (const b of [...s.cases.map((c) => c.block), s.otherwise ?? []]) for (const lane of inside(b)) merge(main, lanes, lane);
      if (s.kind === 'repeat' || s.kind === 'forEach') for (const lane of inside(s.body)) merge(main, lanes, lane);
    }
    lanes.push(main);
    return lanes;
  };
  const merge = (_main: Set<string>, lanes: Set<string>[], lane: Set<string>) => lanes.push(lane);
  return inside(steps);
}
