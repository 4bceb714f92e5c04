import fc from 'fast-check';
import type { Form } from '../forms/index.ts';
import type { Block, Catalogue, Gate, Plan, Step, StepKind, StepOf } from '../plans/index.ts';
import { passages } from '../plans/index.ts';
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
      undoneBy: 'directory.removeMember',
      unchangedWhen: 'already',
    },
    {
      id: 'accounts.create',
      system: 'Accounts',
      label: 'Create an account',
      inputs: [{ name: 'person', label: 'Person', type: 'person', required: true }],
      outputs: [{ name: 'password', label: 'First password', type: 'text', always: true, secret: true }],
    },
  ],
  teams: { desk: { name: 'Directory and access', members: 3 }, ghosts: { name: 'Night watch', members: 0 } },
  policies: { spend: { name: 'Spending', inputs: [{ name: 'amount', label: 'Amount', type: 'number' }] } },
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
  body: [{ text: [[{ text: 'Number ' }, { ref: 'request.number' }]] }],
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

const any = <K extends StepKind>(kind: K, id: string, more: Omit<StepOf<K>, 'kind' | 'id' | 'name' | 'expected'>): Step =>
  ({ kind, id, name: `${kind} ${id}`, expected, ...more }) as unknown as Step;
export const step = any;

/** The form with a field of every kind that the plans below read. */
export const wideForm: Form = {
  fields: [
    ...form.fields,
    { id: 'crew', kind: 'people', label: 'Crew', required: true },
    { id: 'cores', kind: 'number', label: 'Processors', required: true, min: 1, max: 16 },
    { id: 'from', kind: 'date', label: 'First day', required: true },
  ],
};

/** A date in the week of the tests, and a list, for the plans below. */
export const answers = {
  group: { group: 'g1' },
  reason: 'x',
  kind: 'daily',
  crew: [{ person: 'p1' }, { person: 'p2' }, { person: 'p3' }],
  cores: 2,
  from: '2026-03-04',
};

type Shape =
  | 'tell'
  | 'provision'
  | 'task'
  | 'askBack'
  | 'find'
  | 'workOut'
  | 'pause'
  | 'mark'
  | 'finishDeclined'
  | {
      gate: string;
      own: Gate['ownRequest'];
      nobody: string;
      order: boolean;
      deadline: boolean;
      sendBack: boolean;
      approved: Shape[] | null;
      declined: Shape[] | null;
      lapsed: Shape[] | null;
    }
  | { choose: Shape[][]; otherwise: Shape[] | null }
  | { together: Shape[][]; join: 'all' | 'first' }
  | { forEach: Shape[]; atOnce: number | undefined }
  | { repeat: Shape[]; tries: number; pause: boolean; deadline: boolean }
  | { guard: Shape[]; remedy: Shape[]; late: Shape[] | null };

const block = (tie: (key: 'block') => fc.Arbitrary<unknown>) => tie('block') as fc.Arbitrary<Shape[]>;

/** Valid plans of any shape and every step kind: every setting set, ids unique, blocks up to three deep. */
export const anyPlan: fc.Arbitrary<Plan> = fc
  .letrec<{ block: unknown; step: unknown }>((tie) => {
    const inner = block(tie as never);
    return {
      block: fc.array(tie('step'), { minLength: 0, maxLength: 3 }),
      step: fc.oneof(
        { maxDepth: 3, depthSize: 'small' },
        fc.constantFrom('tell', 'provision', 'task', 'askBack', 'find', 'workOut', 'pause', 'mark', 'finishDeclined'),
        fc.record({
          gate: fc.constantFrom('all', 'any', 'first', 'two'),
          own: fc.constantFrom('skip', 'manager', 'allow'),
          nobody: fc.constantFrom('ask', 'pass', 'fail'),
          order: fc.boolean(),
          deadline: fc.boolean(),
          sendBack: fc.boolean(),
          approved: fc.option(inner),
          declined: fc.option(inner),
          lapsed: fc.option(inner),
        }),
        fc.record({ choose: fc.array(inner, { minLength: 1, maxLength: 3 }), otherwise: fc.option(inner) }),
        fc.record({ together: fc.array(inner, { minLength: 2, maxLength: 3 }), join: fc.constantFrom('all', 'first') }),
        fc.record({ forEach: inner, atOnce: fc.constantFrom(undefined, 1, 2) }),
        fc.record({ repeat: inner, tries: fc.integer({ min: 1, max: 3 }), pause: fc.boolean(), deadline: fc.boolean() }),
        fc.record({ guard: inner, remedy: inner, late: fc.option(inner) }),
      ),
    };
  })
  .block.map((shape) => ({ steps: build(shape as Shape[], { n: 0 }), undoWhen: ['failed', 'declined', 'withdrawn'] }));

function build(shapes: Shape[], count: { n: number }): Block {
  return shapes.map((shape): Step => {
    const id = `s${++count.n}`;
    const of = (inner: Shape[] | null) => inner && build(inner, count);
    if (shape === 'tell') return tell(id, `Tell ${id}`);
    if (shape === 'provision') return { ...add, id, name: `Provision ${id}`, undo: 'directory.removeMember' } as Step;
    if (shape === 'finishDeclined') return finish(id, 'declined');
    if (shape === 'task')
      return any('task', id, { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [], due: { within: 'PT4H' } });
    if (shape === 'askBack')
      return any('askBack', id, {
        question: sentence('Which?'),
        fields: [{ id: 'answer', kind: 'text', label: 'Answer', required: true }],
        reminders: { after: 'PT4H', times: 2 },
      });
    if (shape === 'find') return any('find', id, { lookup: { find: 'managerOf', person: { ref: 'request.requester' } } });
    if (shape === 'workOut') return any('workOut', id, { feel: 'form.cores * 2', type: 'number' });
    if (shape === 'pause')
      return any('pause', id, { until: count.n % 2 ? { span: { length: 'PT2H', counted: 'working' } } : { date: { ref: 'form.from' } } });
    if (shape === 'mark') return any('mark', id, { shows: 'milestone', words: `Milestone ${id}` });
    if ('gate' in shape) {
      const [approved, declined, lapsed] = [of(shape.approved), of(shape.declined), of(shape.lapsed)];
      return gate({
        id,
        name: `Gate ${id}`,
        rule: shape.gate === 'two' ? { rule: 'atLeast', count: 2 } : { rule: shape.gate as 'all' | 'any' | 'first' },
        ownRequest: shape.own,
        nobody: shape.nobody === 'ask' ? { then: 'ask', person: { person: 'ada' } } : { then: shape.nobody as 'pass' | 'fail' },
        order: shape.order ? 'inTurn' : 'together',
        sendBack: shape.sendBack,
        ...(shape.deadline && { deadline: 'P5D', reminders: { after: 'P1D', times: 2 } }),
        ...(approved && { approved }),
        ...(declined && { declined }),
        ...(lapsed && { lapsed }),
      });
    }
    if ('choose' in shape) {
      const otherwise = of(shape.otherwise);
      return any('choose', id, {
        cases: shape.choose.map((inner, i) => ({
          id: `case${i}`,
          name: `Case ${i}`,
          when: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: i % 2 ? 'project' : 'daily' } },
          block: build(inner, count),
        })),
        ...(otherwise && { otherwise }),
      });
    }
    if ('together' in shape)
      return any('together', id, {
        join: shape.join,
        branches: shape.together.map((inner, i) => ({ id: `b${i}`, name: `Branch ${i}`, block: build(inner, count) })),
      });
    if ('forEach' in shape) return any('forEach', id, { list: { ref: 'form.crew' }, atOnce: shape.atOnce, body: build(shape.forEach, count) });
    if ('repeat' in shape)
      return any('repeat', id, {
        body: build(shape.repeat, count),
        until: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: shape.tries > 1 ? 'project' : 'daily' } },
        tries: shape.tries,
        ...(shape.pause && { pause: { length: 'PT5M', counted: 'always' } as const }),
        ...(shape.deadline && { deadline: { length: 'P1D', counted: 'working' } as const }),
      });
    const late = of(shape.late);
    return any('guard', id, {
      body: shape.guard.length > 0 ? build(shape.guard, count) : [tell(`s${++count.n}`, `Tell s${count.n}`)],
      remedy: build(shape.remedy, count),
      ...(late && { deadline: { length: 'PT8H', counted: 'working' } as const, late }),
    });
  });
}
