import type { Step } from '../core/plans/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Another size for a machine that somebody has: the policy says who agrees to it, by what it is to become. */
export const machineSize = (policy: string, table: string, park: string): ItemDefinition => ({
  name: 'Another size for a processing machine',
  summary: 'More processors and memory for a machine that you have, or fewer. It stands still for some minutes.',
  category: 'Machines',
  alsoCalled: 'resize, upgrade, larger, smaller',
  promise: 'P4D',
  form: {
    fields: [
      { id: 'machine', kind: 'holding', label: 'Your machine', required: true, gave: `web.${park}.make`, lent: true },
      { id: 'size', kind: 'text', label: 'Size until now', required: true, held: 'locked', prefill: { holding: 'machine', slot: 'size' } },
      { id: 'region', kind: 'text', label: 'Where it runs', required: true, held: 'hidden', prefill: { holding: 'machine', slot: 'region' } },
      { id: 'to', kind: 'row', label: 'Size from now on', required: true, table },
      { id: 'becomes', kind: 'text', label: 'Size that it gets', required: false, held: 'hidden', prefill: { row: 'to', column: 'size' } },
      { id: 'stands', kind: 'text', label: 'Where that is to be had', required: false, held: 'hidden', prefill: { row: 'to', column: 'stands' } },
      { id: 'why', kind: 'longText', label: 'Why', required: true },
    ],
    rules: [
      {
        id: 'other',
        holds: { compare: 'isNot', left: { ref: 'form.becomes' }, right: { ref: 'form.size' } },
        field: 'to',
        sentence: 'It has this size already.',
      },
      {
        id: 'there',
        holds: { compare: 'is', left: { ref: 'form.stands' }, right: { ref: 'form.region' } },
        field: 'to',
        sentence: 'This size is not to be had where your machine runs.',
      },
    ],
  },
  prices: [
    { id: 'aDay', label: 'The machine', amount: { ref: 'form.to.daily' }, per: 'day' },
    {
      id: 'watched',
      label: 'Watched at night',
      amount: { literal: { amount: '0.15', currency: 'EUR' } },
      times: [{ ref: 'form.to.processors' }],
      per: 'day',
    },
  ],
  plan: {
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'The size is agreed to',
        forRequester: 'The size is agreed to',
        expected: { min: 'PT10M', likely: 'PT2H', max: 'P2D' },
        approvers: { from: 'policy', policy, inputs: { processors: { ref: 'form.to.processors' } } },
        rule: { rule: 'any' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
        deadline: 'P3D',
      },
      {
        id: 'resize',
        kind: 'provision',
        name: 'The park gives it the size',
        forRequester: 'Your machine gets its size',
        expected: { min: 'PT1M', likely: 'PT5M', max: 'PT2H' },
        action: `web.${park}.resize`,
        inputs: { holding: { ref: 'form.machine' }, size: { ref: 'form.to.size' } },
      },
      {
        id: 'tellSize',
        kind: 'tell',
        name: 'Tell that it has the size',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your machine has another size, ' }, { ref: 'request.number' }]],
        body: [{ text: [[{ ref: 'form.machine' }, { text: ' is ' }, { ref: 'steps.resize.size', bold: true }, { text: ' now, and runs again.' }]] }],
      },
    ],
  },
});

const tell = (id: string, name: string, subject: string, words: string): Step => ({
  id,
  kind: 'tell',
  name,
  forRequester: 'You are told',
  expected: now,
  to: { ref: 'request.requester' },
  subject: [[{ text: `${subject}, ` }, { ref: 'request.number' }]],
  body: [{ text: [[{ ref: 'form.machine' }, { text: words }]] }],
});

/** A machine that nobody needs for a while stands still until a day; it keeps its place, and costs what it costs. */
export const machineStop = (park: string): ItemDefinition => ({
  name: 'Stop a processing machine for a while',
  summary: 'A machine that you have stands still until a day, and starts again by itself. What it holds stays.',
  category: 'Machines',
  alsoCalled: 'pause, shut down, start, switch off',
  form: {
    fields: [
      { id: 'machine', kind: 'holding', label: 'Your machine', required: true, gave: `web.${park}.make`, lent: true },
      { id: 'until', kind: 'date', label: 'It starts again on', required: true },
    ],
    rules: [
      {
        id: 'ahead',
        apart: { date: { ref: 'form.until' }, days: 1, counted: 'always' },
        field: 'until',
        sentence: 'It stands still for a day at least: choose a day that is still to come.',
      },
    ],
  },
  plan: {
    undoWhen: ['withdrawn'],
    steps: [
      {
        id: 'stop',
        kind: 'provision',
        name: 'The park stops it',
        forRequester: 'Your machine is stopped',
        expected: now,
        action: `web.${park}.stop`,
        inputs: { holding: { ref: 'form.machine' } },
      },
      tell(
        'tellStopped',
        'Tell that it stands still',
        'Your machine stands still',
        ' stands still. Withdraw your request to have it started sooner.',
      ),
      {
        id: 'orGone',
        kind: 'guard',
        name: 'Start it, if it is still there',
        expected: now,
        body: [
          {
            id: 'wait',
            kind: 'pause',
            name: 'Until that day',
            forRequester: 'It stands still until the day you said',
            expected: { min: 'P1D', likely: 'P5D', max: 'P30D' },
            until: { date: { ref: 'form.until' } },
          },
          {
            id: 'start',
            kind: 'provision',
            name: 'The park starts it',
            forRequester: 'Your machine is started',
            expected: now,
            action: `web.${park}.start`,
            inputs: { holding: { ref: 'form.machine' } },
          },
          tell('tellStarted', 'Tell that it runs', 'Your machine runs again', ' runs again.'),
        ],
        remedy: [
          tell(
            'tellNot',
            'Tell that it was not started',
            'Your machine was not started',
            ' was not started: it was given back, or the park could not. Report it if you miss it.',
          ),
        ],
      },
    ],
  },
});
