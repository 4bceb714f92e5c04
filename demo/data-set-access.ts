import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const ownersTime = { min: 'PT10M', likely: 'PT4H', max: 'P3D' };
/** For how long at a time. Common practice, no source. */
const days = 90;

const lastDay = {
  id: 'day',
  kind: 'workOut' as const,
  name: `The last of ${days} days`,
  expected: now,
  feel: `date(request.now) + duration("P${days}D")`,
  type: 'date' as const,
};
const owners = (accessLead: string) => ({
  id: 'owners',
  kind: 'gate' as const,
  name: 'Owners of the data set agree',
  forRequester: 'The owners of the data set agree',
  expected: ownersTime,
  approvers: { from: 'ownersOf' as const, group: { ref: 'form.group' } },
  rule: { rule: 'first' as const },
  ownRequest: 'skip' as const,
  nobody: { then: 'ask' as const, person: { person: accessLead } },
  deadline: 'P5D',
});

/** Into the group of a data set for 90 days: its owners decide, the last day ends it. */
export const dataSetAccess = (accessLead: string): ItemDefinition => ({
  name: `Data set access for ${days} days`,
  summary: `Read a data set for ${days} days. Its owners decide; after the last day you are taken out again.`,
  category: 'Access',
  alsoCalled: 'permission, read access, temporary access',
  form: {
    fields: [
      { id: 'group', kind: 'group', label: 'Data set', help: 'The group that opens it.', required: true },
      { id: 'reason', kind: 'longText', label: 'What you need it for', required: true },
    ],
  },
  plan: {
    steps: [
      owners(accessLead),
      lastDay,
      {
        id: 'add',
        kind: 'provision',
        name: 'Into the group until that day',
        forRequester: 'You are given access',
        expected: now,
        action: 'directory.addMember',
        inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' }, until: { ref: 'steps.day.value' } },
      },
      {
        id: 'tellUntil',
        kind: 'tell',
        name: 'Tell until when',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'You can read ' }, { ref: 'form.group' }]],
        body: [
          {
            text: [
              [{ text: 'You are in ' }, { ref: 'form.group' }, { text: ' until ' }, { ref: 'steps.day.value' }, { text: '.' }],
              [{ text: 'You are told three days before. If you need it for longer, ask for that under My things.' }],
            ],
          },
        ],
      },
    ],
  },
});

/** The same for 90 days from now on, of somebody who has it: the same owners are asked. */
export const dataSetLonger = (accessLead: string): ItemDefinition => ({
  name: 'Data set access for longer',
  summary: `Keep reading a data set for ${days} days from now on. Its owners decide again.`,
  category: 'Access',
  alsoCalled: 'extend, prolong, renew',
  form: {
    fields: [
      { id: 'access', kind: 'holding', label: 'Your access', help: 'What you have now.', required: true, gave: 'directory.addMember', lent: true },
      { id: 'group', kind: 'group', label: 'Data set', required: true, held: 'locked', prefill: { holding: 'access', slot: 'group' } },
      { id: 'until', kind: 'date', label: 'Until now', required: false, held: 'locked', prefill: { holding: 'access', slot: 'until' } },
      { id: 'reason', kind: 'longText', label: 'What you still need it for', required: true },
    ],
  },
  plan: {
    steps: [
      owners(accessLead),
      lastDay,
      {
        id: 'keep',
        kind: 'provision',
        name: 'In the group until that day',
        forRequester: 'Your access goes on',
        expected: now,
        action: 'directory.keepMember',
        inputs: { holding: { ref: 'form.access' }, until: { ref: 'steps.day.value' } },
      },
      {
        id: 'tellUntil',
        kind: 'tell',
        name: 'Tell until when',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'You keep ' }, { ref: 'form.access' }]],
        body: [{ text: [[{ text: 'You are in ' }, { ref: 'form.access' }, { text: ' until ' }, { ref: 'steps.day.value' }, { text: ' now.' }]] }],
      },
    ],
  },
});
