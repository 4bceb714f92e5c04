import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const agreeing = {
  kind: 'gate',
  expected: { min: 'PT1H', likely: 'PT4H', max: 'P1D' },
  rule: { rule: 'first' },
  ownRequest: 'skip',
  nobody: { then: 'pass' },
  reminders: { after: 'P1D', times: 2 },
  deadline: 'P5D',
} as const;

/** Somebody goes to another department: the manager they have and the one they get agree, and the directory is changed on the day. */
export const colleagueMoving: ItemDefinition = {
  name: 'Colleague moving',
  summary: 'Another department, job or manager, in the directory from a day on.',
  category: 'People',
  form: {
    fields: [
      { id: 'colleague', kind: 'person', label: 'Colleague', required: true },
      { id: 'department', kind: 'text', label: 'New department', required: true },
      { id: 'role', kind: 'text', label: 'New job role', help: 'Left empty it stays as it is.', required: false },
      { id: 'manager', kind: 'person', label: 'New manager', required: true },
      { id: 'from', kind: 'date', label: 'From', required: true },
    ],
  },
  plan: {
    steps: [
      {
        ...agreeing,
        id: 'lets',
        name: 'Their manager lets them go',
        forRequester: 'Their manager lets them go',
        approvers: { from: 'managerOf', person: { ref: 'form.colleague' } },
      },
      {
        ...agreeing,
        id: 'takes',
        name: 'The new manager agrees',
        forRequester: 'The new manager agrees',
        approvers: { from: 'person', person: { ref: 'form.manager' } },
      },
      { id: 'day', kind: 'pause', name: 'Until that day', forRequester: 'Until that day', expected: now, until: { date: { ref: 'form.from' } } },
      {
        id: 'change',
        kind: 'provision',
        name: 'Change the directory',
        forRequester: 'The directory is changed',
        expected: { min: 'PT1M', likely: 'PT1M', max: 'PT5M' },
        action: 'directory.changeAccount',
        inputs: {
          person: { ref: 'form.colleague' },
          department: { ref: 'form.department' },
          jobRole: { ref: 'form.role' },
          manager: { ref: 'form.manager' },
        },
      },
      {
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that it is done',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ ref: 'form.colleague' }, { text: ' is with ' }, { ref: 'form.department' }]],
        body: [{ text: [[{ text: 'The directory says so from today on; their manager is ' }, { ref: 'form.manager' }, { text: '.' }]] }],
      },
    ],
  },
};
