import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Who decides about a group is changed: those who own it agree, and it never has no owner. `accessLead` is asked where nobody else owns it. */
export const ownersOfAGroup = (accessLead: string): ItemDefinition => ({
  name: 'Owners of a group',
  summary: 'Make somebody an owner of a group, who then decides who is in it, or take somebody off its owners.',
  category: 'Access',
  form: {
    fields: [
      { id: 'group', kind: 'group', label: 'Group', required: true },
      {
        id: 'change',
        kind: 'choice',
        label: 'What is to change',
        required: true,
        options: [
          { value: 'add', label: 'Somebody becomes an owner' },
          { value: 'remove', label: 'Somebody is no owner any more' },
        ],
      },
      { id: 'who', kind: 'person', label: 'Who', required: true },
      { id: 'reason', kind: 'longText', label: 'Why', help: 'The owners read this when they decide.', required: true },
    ],
  },
  plan: {
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'Its owners agree',
        forRequester: 'The owners of the group agree',
        expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
        approvers: { from: 'ownersOf', group: { ref: 'form.group' } },
        rule: { rule: 'first' },
        ownRequest: 'skip',
        nobody: { then: 'ask', person: { person: accessLead } },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
      },
      {
        id: 'which',
        kind: 'choose',
        name: 'What is to change?',
        expected: now,
        cases: [
          {
            id: 'add',
            name: 'Somebody becomes an owner',
            when: { compare: 'is', left: { ref: 'form.change' }, right: { literal: 'add' } },
            block: [
              {
                id: 'makeOwner',
                kind: 'provision',
                name: 'Make them an owner',
                forRequester: 'They become an owner',
                expected: now,
                action: 'directory.addOwner',
                inputs: { group: { ref: 'form.group' }, person: { ref: 'form.who' } },
              },
              {
                id: 'tellOwner',
                kind: 'tell',
                name: 'Tell the new owner',
                expected: now,
                to: { ref: 'form.who' },
                subject: [[{ text: 'You own ' }, { ref: 'form.group' }]],
                body: [
                  {
                    text: [
                      [
                        { text: 'You decide from now on who is in ' },
                        { ref: 'form.group' },
                        { text: ', and are asked by mail when somebody wants to be.' },
                      ],
                      [{ text: 'Why: ' }, { ref: 'form.reason' }],
                    ],
                  },
                ],
              },
            ],
          },
        ],
        otherwise: [
          {
            id: 'notTheLast',
            kind: 'guard',
            name: 'Not the last one',
            expected: now,
            body: [
              {
                id: 'takeOff',
                kind: 'provision',
                name: 'Take them off the owners',
                forRequester: 'They are taken off the owners',
                expected: now,
                action: 'directory.removeOwner',
                inputs: { group: { ref: 'form.group' }, person: { ref: 'form.who' } },
              },
            ],
            remedy: [
              {
                id: 'tellLast',
                kind: 'tell',
                name: 'Tell that nothing is changed',
                expected: now,
                to: { ref: 'request.requester' },
                subject: [[{ ref: 'form.group' }, { text: ' keeps its owner, ' }, { ref: 'request.number' }]],
                body: [
                  {
                    text: [
                      [
                        { text: 'The directory did not take ' },
                        { ref: 'form.who' },
                        { text: ' off. A group has one owner at least: if they are the last, ask for another owner first.' },
                      ],
                    ],
                  },
                ],
              },
              { id: 'kept', kind: 'finish', name: 'End as failed', expected: now, outcome: 'failed' },
            ],
          },
        ],
      },
      {
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that it is changed',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Changed: the owners of ' }, { ref: 'form.group' }, { text: ', ' }, { ref: 'request.number' }]],
        body: [{ text: sentence('The directory has it, and whoever asks for access is decided on by those who own the group now.') }],
      },
    ],
  },
});
