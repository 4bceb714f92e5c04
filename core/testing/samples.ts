import type { Form } from '../forms/index.ts';
import type { Catalogue, Gate, Plan, Step, StepKind, StepOf } from '../plans/index.ts';
import { sentence, type Value } from '../values/index.ts';

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
        { name: 'until', label: 'Until', type: 'date', required: false },
      ],
      outputs: [
        { name: 'already', label: 'Was already a member', type: 'boolean', always: true },
        { name: 'note', label: 'Note of the directory', type: 'text', always: false },
      ],
      undoneBy: 'directory.removeMember',
      unchangedWhen: 'already',
      gives: { kind: 'group', person: 'person', what: 'group', until: 'until' },
    },
    {
      id: 'directory.keepMember',
      system: 'Directory',
      label: 'Leave a person in a group until another day',
      inputs: [
        { name: 'group', label: 'Group', type: 'group', required: true, known: true },
        { name: 'person', label: 'Person', type: 'person', required: true, known: true },
        { name: 'until', label: 'Until', type: 'date', required: true },
      ],
      outputs: [],
      about: { of: 'directory.addMember', until: 'until' },
    },
    {
      id: 'accounts.create',
      system: 'Accounts',
      label: 'Create an account',
      inputs: [{ name: 'person', label: 'Person', type: 'person', required: true }],
      outputs: [{ name: 'password', label: 'First password', type: 'text', always: true, secret: true }],
    },
  ],
  routing: { whoGets: { name: 'Who gets it', columns: [{ fact: 'place' }, { fact: 'answer', field: 'kind' }] } },
  teams: { desk: { name: 'Directory and access', members: 3 }, ghosts: { name: 'Night watch', members: 0 } },
  policies: { spend: { name: 'Spending', inputs: [{ name: 'amount', label: 'Amount', type: 'number' }] } },
  stated: { 'group tides': 'Tide models' },
  people: { ada: { name: 'Ada Strand', active: true }, gone: { name: 'Gro Left', active: false } },
  tables: {
    machines: {
      name: 'Machine sizes',
      columns: [
        { id: 'size', kind: 'text', label: 'Size', required: true },
        { id: 'processors', kind: 'number', label: 'Processors', required: true, min: 1, max: 64 },
        { id: 'daily', kind: 'money', label: 'Price per day', required: false },
        { id: 'keeper', kind: 'person', label: 'Who keeps it', required: true },
      ],
    },
  },
};
/** The rows of the sample table, by `rowId`. */
export const machines: Record<string, Record<string, Value>> = {
  'machines/Small': { size: 'Small', processors: 1, daily: { amount: '0', currency: 'EUR' }, keeper: { person: 'o1' } },
  'machines/Large': { size: 'Large', processors: 8, daily: { amount: '12.50', currency: 'EUR' }, keeper: { person: 'p1' } },
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
/** An account whose first password goes to whoever asked, in a sealed note. */
export const createAccount = step('provision', 'acc', {
  action: 'accounts.create',
  inputs: { person: { ref: 'request.requester' } },
  note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
});

/** The form with a field of every kind that the plans below read. */
export const wideForm: Form = {
  fields: [
    ...form.fields,
    { id: 'crew', kind: 'people', label: 'Crew', required: true, max: 12 },
    { id: 'cores', kind: 'number', label: 'Processors', required: true, min: 1, max: 16 },
    { id: 'from', kind: 'date', label: 'First day', required: true },
    {
      id: 'kit',
      kind: 'choices',
      label: 'Equipment',
      required: false,
      options: [
        { value: 'laptop', label: 'Laptop' },
        { value: 'vest', label: 'Life vest' },
      ],
    },
    { id: 'remote', kind: 'yesNo', label: 'Works elsewhere', required: false },
    { id: 'price', kind: 'money', label: 'Price', required: true },
    { id: 'place', kind: 'location', label: 'Place', required: false },
    { id: 'by', kind: 'team', label: 'Team that helps', required: true },
    {
      id: 'mail',
      kind: 'address',
      label: 'Mail of the guest',
      required: false,
      requiredWhen: { compare: 'is', left: { ref: 'form.remote' }, right: { literal: true } },
    },
    { id: 'hour', kind: 'time', label: 'Hour', required: false },
    { id: 'call', kind: 'phone', label: 'Telephone', required: false },
    {
      id: 'code',
      kind: 'text',
      label: 'Code',
      required: false,
      shape: {
        pieces: [{ exactly: 'SK-' }, { of: 'digits', least: 2, most: 4 }],
      },
    },
    { id: 'account', kind: 'text', label: 'Counted for', required: true, held: 'hidden', default: 'Charts' },
    { id: 'boss', kind: 'person', label: 'Head', required: false, held: 'locked', prefill: { ofAsker: 'manager' } },
    { id: 'daily', kind: 'money', label: 'Price of the machine', required: false, held: 'locked', prefill: { row: 'machine', column: 'daily' } },
    { id: 'sketch', kind: 'files', label: 'Sketches', required: false, max: 3 },
    { id: 'machine', kind: 'row', label: 'Machine', required: true, table: 'machines' },
    { id: 'access', kind: 'holding', label: 'Access they have', required: false, gave: 'directory.addMember', lent: true },
    { id: 'open', kind: 'group', label: 'What it opens', required: false, held: 'locked', prefill: { holding: 'access', slot: 'group' } },
    { id: 'spare', kind: 'row', label: 'Machine to fall back on', required: false, table: 'machines' },
    {
      id: 'gear',
      kind: 'lines',
      label: 'Instruments',
      required: false,
      max: 20,
      columns: [
        { id: 'what', kind: 'text', label: 'Instrument', required: true },
        { id: 'many', kind: 'number', label: 'How many', required: true, min: 1, max: 9 },
        { id: 'by', kind: 'person', label: 'Who brings it', required: false },
        {
          id: 'state',
          kind: 'choice',
          label: 'State',
          required: false,
          options: [
            { value: 'new', label: 'As new' },
            { value: 'worn', label: 'Worn' },
          ],
        },
      ],
    },
  ],
  sections: [
    { id: 'work', before: 'crew', title: 'The work', note: sentence('Who goes, and with what.'), twoColumns: true },
    { id: 'last', title: '', note: sentence('Nothing is ordered before somebody has agreed.') },
  ],
  tests: [{ id: 'far', name: 'Far away with many processors', answers: {}, refused: { field: 'group', sentence: 'Pick “Group”.' } }],
  rules: [
    {
      id: 'elsewhere',
      holds: {
        any: [
          { not: { compare: 'is', left: { ref: 'form.remote' }, right: { literal: true } } },
          { compare: 'less', left: { ref: 'form.cores' }, right: { literal: 16 } },
        ],
      },
      field: 'cores',
      sentence: 'Elsewhere there are no machines of 16 processors. Choose fewer.',
    },
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
  price: { amount: '1250.50', currency: 'EUR' },
  place: { location: 'l1' },
  by: { team: 'desk' },
  mail: 'guest@example.org',
  hour: '09:30',
  call: '+298 20 30 40',
  code: 'SK-204',
  account: 'Charts',
  machine: { table: 'machines', key: 'Large' },
  sketch: [{ file: 'f1' }],
  gear: [
    { entry: { what: 'Echo sounder', many: 2, by: { person: 'p1' }, state: 'new' } },
    { entry: { what: 'Tide gauge', many: 1, by: null, state: null } },
  ],
};
