import type { ItemDefinition } from '../core/items/index.ts';
import type { Policy } from '../core/policies/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

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

/** A machine for computations: the policy says who agrees, Platforms sets it up. */
export const processingMachine = (policy: string, platforms: string): ItemDefinition => ({
  name: 'Processing machine',
  summary: 'A machine for tide models and soundings, for as long as you need it.',
  category: 'Machines',
  promise: 'P4D',
  form: {
    fields: [
      { id: 'processors', kind: 'number', label: 'Processors', required: true, min: 1, max: 32, default: 1 },
      { id: 'days', kind: 'number', label: 'For how long', required: true, min: 1, max: 180, unit: 'days', default: 14 },
      { id: 'purpose', kind: 'longText', label: 'What it computes', required: true },
    ],
  },
  plan: {
    steps: [
      { id: 'size', kind: 'workOut', name: 'Processor days', expected: now, feel: 'form.processors * form.days', type: 'number' },
      {
        id: 'agree',
        kind: 'gate',
        name: 'The machine is agreed to',
        forRequester: 'The machine is agreed to',
        expected: { min: 'PT10M', likely: 'PT2H', max: 'P2D' },
        approvers: { from: 'policy', policy, inputs: { processors: { ref: 'form.processors' } } },
        rule: { rule: 'any' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
        corrects: ['processors', 'days'],
        deadline: 'P3D',
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
                { ref: 'form.processors' },
                { text: ' processors for ' },
                { ref: 'form.days' },
                { text: ' days (' },
                { ref: 'steps.size.value' },
                { text: ' processor days): ' },
                { ref: 'form.purpose' },
              ],
            ],
          },
        ],
        checklist: [{ id: 'backup', words: 'Left out of the nightly backup' }],
        fields: [{ id: 'address', kind: 'text', label: 'Address', required: true }],
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
              [{ text: 'It answers at ' }, { ref: 'steps.setUp.address' }, { text: ' and is yours for ' }, { ref: 'form.days' }, { text: ' days.' }],
            ],
          },
        ],
      },
    ],
  },
});
