import type { ItemDefinition } from '../core/items/index.ts';
import type { Policy } from '../core/policies/index.ts';
import type { TableDefinition } from '../core/tables/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** The sizes there are, with what a day of each costs, as the park says; it changes them, and no item is touched. */
export const machineSizes = (park: string): TableDefinition => ({
  name: 'Machine sizes',
  purpose: 'What Platforms has to give, and what a day of it costs.',
  columns: [
    { id: 'size', kind: 'text', label: 'Size', required: true },
    { id: 'processors', kind: 'number', label: 'Processors', required: true, min: 1, max: 64 },
    { id: 'memory', kind: 'number', label: 'Memory', required: true, min: 1, max: 1024, unit: 'GB' },
    { id: 'daily', kind: 'money', label: 'A day costs', required: true, unit: 'EUR' },
    {
      id: 'stands',
      kind: 'choice',
      label: 'Where it runs',
      required: true,
      options: [
        { value: 'hall', label: 'Machine hall at Quay House' },
        { value: 'lunnick', label: 'Lunnick Station' },
      ],
    },
    { id: 'most', kind: 'number', label: 'Lent for at most', required: true, min: 1, max: 180, unit: 'days' },
  ],
  key: ['size'],
  from: {
    system: park,
    list: 'sizes',
    columns: [
      { column: 'size', of: 'id' },
      { column: 'processors', of: 'processors' },
      { column: 'memory', of: 'memoryGb' },
      { column: 'daily', of: 'dayEur' },
      { column: 'stands', of: 'region' },
      { column: 'most', of: 'mostDays' },
    ],
    every: 'PT5M',
  },
});

/** What a machine can begin with, as the park says. */
export const machineImages = (park: string): TableDefinition => ({
  name: 'Machine images',
  purpose: 'What a machine can begin with.',
  columns: [
    { id: 'image', kind: 'text', label: 'Image', required: true },
    { id: 'code', kind: 'text', label: 'Code', required: true },
  ],
  key: ['image'],
  from: {
    system: park,
    list: 'images',
    columns: [
      { column: 'image', of: 'name' },
      { column: 'code', of: 'id' },
    ],
    every: 'PT1H',
  },
});
const eur = (amount: string) => ({ amount, currency: 'EUR' });

/** Common practice, no source: one processor is free to take, two or more need approval. */
export const machinePolicy = (siteLead: string): Policy => ({
  name: 'Processing machines',
  purpose: 'Who agrees to a machine, by its size.',
  inputs: [{ name: 'processors', label: 'Processors', type: 'number' }],
  lines: [
    {
      id: 'large',
      when: { compare: 'atLeast', left: { ref: 'input.processors' }, right: { literal: 8 } },
      approvers: { from: 'chain', levels: 2 },
      rule: { rule: 'all' },
    },
    {
      id: 'middle',
      when: { compare: 'atLeast', left: { ref: 'input.processors' }, right: { literal: 2 } },
      approvers: { from: 'people', people: [{ person: siteLead }] },
      rule: { rule: 'any' },
    },
    { id: 'small', approvers: { from: 'nobody' }, rule: { rule: 'any' } },
  ],
});

interface Asks {
  policy: string;
  /** The team that sets it up. */
  platforms: string;
  /** The tables that the park fills: the sizes it has, and what a machine can begin with. */
  sizes: string;
  images: string;
  park: string;
}

/** A machine for computations, of a size the table has: the policy says who agrees, the park makes it, Platforms sets it up. */
export const processingMachine = ({ policy, platforms, sizes, images, park }: Asks): ItemDefinition => ({
  name: 'Processing machine',
  summary: 'A machine for tide models and soundings, for as long as you need it.',
  category: 'Machines',
  promise: 'P4D',
  watched: { at: 50, team: platforms },
  form: {
    fields: [
      { id: 'size', kind: 'row', label: 'Size', required: true, table: sizes },
      {
        id: 'processors',
        kind: 'number',
        label: 'Processors',
        help: 'As the table of sizes has it now.',
        required: false,
        held: 'locked',
        prefill: { row: 'size', column: 'processors' },
      },
      {
        id: 'most',
        kind: 'number',
        label: 'Lent for at most',
        required: false,
        held: 'locked',
        prefill: { row: 'size', column: 'most' },
        unit: 'days',
      },
      { id: 'image', kind: 'row', label: 'Begins with', help: 'Left empty, a plain machine.', required: false, table: images },
      { id: 'days', kind: 'number', label: 'For how long', required: true, min: 1, max: 180, unit: 'days', default: 14 },
      { id: 'purpose', kind: 'longText', label: 'What it computes', required: true },
    ],
    rules: [
      {
        id: 'lease',
        holds: { compare: 'atMost', left: { ref: 'form.days' }, right: { ref: 'form.most' } },
        field: 'days',
        sentence: 'This size is not lent for so long: see how many days stand above.',
      },
    ],
  },
  prices: [
    { id: 'aDay', label: 'The machine', amount: { ref: 'form.size.daily' }, per: 'day' },
    {
      id: 'setUp',
      label: 'Setting it up at Lunnick',
      amount: { literal: eur('40') },
      per: 'once',
      when: { compare: 'is', left: { ref: 'form.size.stands' }, right: { literal: 'lunnick' } },
    },
    { id: 'watched', label: 'Watched at night', amount: { literal: eur('0.15') }, times: [{ ref: 'form.size.processors' }], per: 'day' },
  ],
  plan: {
    undoWhen: ['withdrawn', 'failed'],
    steps: [
      {
        id: 'cost',
        kind: 'workOut',
        name: 'What it costs',
        expected: now,
        feel: '{amount: form.size.daily.amount * form.days, currency: form.size.daily.currency}',
        type: 'money',
      },
      {
        id: 'agree',
        kind: 'gate',
        name: 'The machine is agreed to',
        forRequester: 'The machine is agreed to',
        expected: { min: 'PT10M', likely: 'PT2H', max: 'P2D' },
        approvers: { from: 'policy', policy, inputs: { processors: { ref: 'form.size.processors' } } },
        rule: { rule: 'any' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
        corrects: ['size', 'days'],
        deadline: 'P3D',
      },
      {
        id: 'make',
        kind: 'provision',
        name: 'The park makes the machine',
        forRequester: 'The machine is made',
        expected: { min: 'PT1M', likely: 'PT5M', max: 'PT2H' },
        action: `web.${park}.make`,
        inputs: {
          size: { ref: 'form.size.size' },
          region: { ref: 'form.size.stands' },
          image: { ref: 'form.image.code' },
          days: { ref: 'form.days' },
          owner: { ref: 'request.for' },
          purpose: { ref: 'form.purpose' },
        },
        note: { to: { ref: 'request.for' }, openFor: 'P7D' },
      },
      {
        id: 'setUp',
        kind: 'task',
        name: 'Set the machine up',
        forRequester: 'The machine is set up',
        expected: { min: 'PT30M', likely: 'PT1H', max: 'PT4H' },
        assignee: { team: platforms },
        instructions: [
          {
            text: [
              [
                { ref: 'form.size' },
                { text: ': ' },
                { ref: 'form.size.processors' },
                { text: ' processors and ' },
                { ref: 'form.size.memory' },
                { text: ' GB, in ' },
                { ref: 'form.size.stands' },
                { text: ', for ' },
                { ref: 'form.days' },
                { text: ' days: ' },
                { ref: 'form.purpose' },
              ],
              [{ text: 'It answers at ' }, { ref: 'steps.make.address' }, { text: '.' }],
            ],
          },
        ],
        checklist: [{ id: 'backup', words: 'Left out of the nightly backup' }],
        fields: [],
        due: { within: 'P1D' },
      },
      {
        id: 'tellReady',
        kind: 'tell',
        name: 'Tell the address',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your machine is ready, ' }, { ref: 'request.number' }]],
        body: [
          {
            text: [
              [
                { text: 'It answers at ' },
                { ref: 'steps.make.address' },
                { text: ' and is yours until ' },
                { ref: 'steps.make.until' },
                { text: '.' },
              ],
              [{ text: 'The first sign-in is in a sealed note: you find it with your request, and under My things.' }],
              [{ text: 'It costs ' }, { ref: 'steps.cost.value' }, { text: ' for all of them.' }],
            ],
          },
        ],
      },
    ],
  },
});
