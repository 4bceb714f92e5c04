import type { Approvers, Step } from '../core/plans/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

const gate = (id: string, name: string, approvers: Approvers): Step => ({
  id,
  kind: 'gate',
  name,
  forRequester: 'More days are agreed to',
  expected: { min: 'PT10M', likely: 'PT2H', max: 'P2D' },
  approvers,
  rule: { rule: 'any' },
  ownRequest: 'skip',
  nobody: { then: 'fail' },
  corrects: ['days'],
  deadline: 'P3D',
});

/** A machine for more days, of somebody who has one: the same policy says who agrees, by the size that it has. */
export const machineLonger = (policy: string, siteLead: string, table: string, park: string): ItemDefinition => ({
  name: 'Processing machine for longer',
  summary: 'Keep a machine that you have for more days.',
  category: 'Machines',
  alsoCalled: 'extend, prolong, lease',
  form: {
    fields: [
      { id: 'machine', kind: 'holding', label: 'Your machine', required: true, gave: `web.${park}.make`, lent: true },
      { id: 'size', kind: 'text', label: 'Size', required: true, held: 'locked', prefill: { holding: 'machine', slot: 'size' } },
      { id: 'until', kind: 'date', label: 'Lent until now', required: false, held: 'locked', prefill: { holding: 'machine', slot: 'until' } },
      {
        id: 'before',
        kind: 'number',
        label: 'Days in all so far',
        required: false,
        held: 'locked',
        prefill: { holding: 'machine', slot: 'days' },
        unit: 'days',
      },
      {
        id: 'days',
        kind: 'number',
        label: 'Days in all from now on',
        help: 'Counted from its first day.',
        required: true,
        min: 1,
        max: 180,
        unit: 'days',
      },
      { id: 'purpose', kind: 'longText', label: 'What it still computes', required: true },
    ],
    rules: [
      {
        id: 'more',
        holds: { compare: 'more', left: { ref: 'form.days' }, right: { ref: 'form.before' } },
        field: 'days',
        sentence: 'This is not longer than it is lent already.',
      },
    ],
  },
  plan: {
    steps: [
      {
        id: 'which',
        kind: 'find',
        name: 'What a machine of this size is',
        expected: now,
        lookup: { find: 'row', table, where: { size: { ref: 'form.size' } }, several: 'first' },
      },
      {
        id: 'known',
        kind: 'choose',
        name: 'Is there such a size?',
        expected: now,
        cases: [
          {
            id: 'size',
            name: 'It is in the table',
            when: { has: { ref: 'steps.which.row' } },
            block: [
              gate('agree', 'More days are agreed to', { from: 'policy', policy, inputs: { processors: { ref: 'steps.which.row.processors' } } }),
            ],
          },
        ],
        otherwise: [gate('lead', 'The site lead agrees', { from: 'people', people: [{ person: siteLead }] })],
      },
      {
        id: 'extend',
        kind: 'provision',
        name: 'The park lends it for longer',
        forRequester: 'Your machine is lent for longer',
        expected: now,
        action: `web.${park}.extend`,
        inputs: { holding: { ref: 'form.machine' }, days: { ref: 'form.days' } },
      },
      {
        id: 'tellUntil',
        kind: 'tell',
        name: 'Tell until when',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your machine stays' }]],
        body: [{ text: [[{ ref: 'form.machine' }, { text: ' is yours until ' }, { ref: 'steps.extend.until' }, { text: ' now.' }]] }],
      },
    ],
  },
});
