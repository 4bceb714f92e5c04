import fc from 'fast-check';
import type { Form } from '../forms/index.ts';
import type { Block, Catalogue, Gate, Plan, Step } from '../plans/index.ts';
import { sentence } from '../values/index.ts';

/** Plans, forms and a catalogue that the tests of the core share. Invented. */
export const catalogue: Catalogue = {
  actions: [
    {
      id: 'directory.addMember',
      system: 'Directory',
      label: 'Add a person to a group',
      inputs: [
        { name: 'group', label: 'Group', type: 'group', required: true },
        { name: 'person', label: 'Person', type: 'person', required: true },
      ],
      outputs: [
        { name: 'already', label: 'Was already a member', type: 'boolean', always: true },
        { name: 'note', label: 'Note of the directory', type: 'text', always: false },
      ],
    },
  ],
  people: { ada: { name: 'Ada Strand', active: true }, gone: { name: 'Gro Left', active: false } },
};

export const form: Form = {
  fields: [
    { id: 'group', kind: 'group', label: 'Group', required: true },
    { id: 'reason', kind: 'longText', label: 'Why', required: true },
    {
      id: 'kind',
      kind: 'choice',
      label: 'Kind of work',
      required: true,
      options: [
        { value: 'daily', label: 'Day to day' },
        { value: 'project', label: 'A project' },
      ],
    },
    {
      id: 'project',
      kind: 'text',
      label: 'Project',
      required: true,
      visibleWhen: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } },
    },
    { id: 'colleague', kind: 'person', label: 'Colleague', required: false },
  ],
};

const expected = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
export const gate = (more: Partial<Gate> = {}): Gate => ({
  id: 'owners',
  kind: 'gate',
  name: 'Owners agree',
  expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' },
  approvers: { from: 'ownersOf', group: { ref: 'form.group' } },
  rule: { rule: 'first' },
  ownRequest: 'skip',
  nobody: { then: 'ask', person: { person: 'ada' } },
  ...more,
});
export const add: Step = {
  id: 'add',
  kind: 'provision',
  name: 'Add to the group',
  expected,
  action: 'directory.addMember',
  inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
};
export const tell = (id: string, name: string): Step => ({
  id,
  kind: 'tell',
  name,
  expected,
  to: { ref: 'request.requester' },
  subject: sentence('About your request'),
  body: [[{ text: 'Number ' }, { ref: 'request.number' }]],
});
export const finish = (id: string, outcome: 'declined' | 'fulfilled' | 'failed'): Step => ({
  id,
  kind: 'finish',
  name: `Finish ${id}`,
  expected,
  outcome,
});
export const joinGroup: Plan = {
  steps: [
    gate({ declined: [tell('sorry', 'Tell why not'), finish('no', 'declined')] }),
    add,
    {
      id: 'which',
      kind: 'choose',
      name: 'Which words',
      expected,
      cases: [
        {
          id: 'was',
          name: 'Already in',
          when: { compare: 'is', left: { ref: 'steps.add.already' }, right: { literal: true } },
          block: [tell('still', 'Tell they were in')],
        },
      ],
      otherwise: [tell('welcome', 'Tell they are in')],
    },
  ],
};

/** Valid plans of any shape: every setting set, ids unique, blocks up to three deep. */
export const anyPlan: fc.Arbitrary<Plan> = fc
  .letrec<{ block: unknown[]; step: unknown }>((tie) => ({
    block: fc.array(tie('step'), { minLength: 0, maxLength: 3 }),
    step: fc.oneof(
      { maxDepth: 3, depthSize: 'small' },
      fc.constantFrom('tell', 'provision', 'finishDeclined'),
      fc.record({
        gate: fc.constantFrom('all', 'any', 'first', 'two'),
        own: fc.constantFrom('skip', 'manager', 'allow'),
        nobody: fc.constantFrom('ask', 'pass', 'fail'),
        approved: fc.option(tie('block')),
        declined: fc.option(tie('block')),
      }),
      fc.record({ choose: fc.array(tie('block'), { minLength: 1, maxLength: 3 }), otherwise: fc.option(tie('block')) }),
    ),
  }))
  .block.map((shape) => ({ steps: build(shape, { n: 0 }) }));

type Shape =
  | 'tell'
  | 'provision'
  | 'finishDeclined'
  | { gate: string; own: Gate['ownRequest']; nobody: string; approved: Shape[] | null; declined: Shape[] | null }
  | { choose: Shape[][]; otherwise: Shape[] | null };

function build(shapes: unknown, count: { n: number }): Block {
  return (shapes as Shape[]).map((shape): Step => {
    const id = `s${++count.n}`;
    if (shape === 'tell') return tell(id, `Tell ${id}`);
    if (shape === 'provision') return { ...add, id, name: `Provision ${id}` } as Step;
    if (shape === 'finishDeclined') return finish(id, 'declined');
    if ('gate' in shape) {
      return gate({
        id,
        name: `Gate ${id}`,
        rule: shape.gate === 'two' ? { rule: 'atLeast', count: 2 } : { rule: shape.gate as 'all' | 'any' | 'first' },
        ownRequest: shape.own,
        nobody: shape.nobody === 'ask' ? { then: 'ask', person: { person: 'ada' } } : { then: shape.nobody as 'pass' | 'fail' },
        ...(shape.approved && { approved: build(shape.approved, count) }),
        ...(shape.declined && { declined: build(shape.declined, count) }),
      });
    }
    return {
      id,
      kind: 'choose',
      name: `Choose ${id}`,
      expected,
      cases: shape.choose.map((block, i) => ({
        id: `case${i}`,
        name: `Case ${i}`,
        when: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: i % 2 ? 'project' : 'daily' } },
        block: build(block, count),
      })),
      ...(shape.otherwise && { otherwise: build(shape.otherwise, count) }),
    };
  });
}
