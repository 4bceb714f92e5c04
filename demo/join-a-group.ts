import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** The first item: ask the owners of a group, add the person, tell them. `accessLead` is asked where a group has no owner. */
export const joinAGroup = (accessLead: string): ItemDefinition => ({
  name: 'Join a group',
  summary: 'Get access to what a group of the directory opens: models, charts, logs. Its owners decide.',
  category: 'Access',
  form: {
    fields: [
      { id: 'group', kind: 'group', label: 'Group', help: 'What you want to reach.', required: true },
      {
        id: 'work',
        kind: 'choice',
        label: 'Kind of work',
        required: true,
        default: 'daily',
        options: [
          { value: 'daily', label: 'My day-to-day work' },
          { value: 'survey', label: 'A survey' },
        ],
      },
      {
        id: 'survey',
        kind: 'text',
        label: 'Name of the survey',
        help: 'As it stands in the survey plan.',
        required: true,
        visibleWhen: { compare: 'is', left: { ref: 'form.work' }, right: { literal: 'survey' } },
      },
      { id: 'reason', kind: 'longText', label: 'What you need it for', help: 'The owners read this when they decide.', required: true },
    ],
  },
  plan: {
    steps: [
      {
        id: 'owners',
        kind: 'gate',
        name: 'Owners of the group agree',
        forRequester: 'The owners of the group agree',
        expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
        approvers: { from: 'ownersOf', group: { ref: 'form.group' } },
        rule: { rule: 'first' },
        ownRequest: 'skip',
        nobody: { then: 'ask', person: { person: accessLead } },
        declined: [
          {
            id: 'tellDeclined',
            kind: 'tell',
            name: 'Tell why not',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'Declined: ' }, { ref: 'form.group' }, { text: ', ' }, { ref: 'request.number' }]],
            body: [
              {
                text: [
                  [{ ref: 'steps.owners.decidedBy' }, { text: ' declined your request to join ' }, { ref: 'form.group' }, { text: ':' }],
                  [{ ref: 'steps.owners.comment' }],
                  [{ text: 'Nothing was changed. You can ask again when the reason no longer holds.' }],
                ],
              },
            ],
          },
          { id: 'declined', kind: 'finish', name: 'End as declined', expected: now, outcome: 'declined' },
        ],
      },
      {
        id: 'add',
        kind: 'provision',
        name: 'Add to the group',
        forRequester: 'You are added to the group',
        expected: now,
        action: 'directory.addMember',
        inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
        retries: { times: 8, firstPauseSeconds: 2, factor: 2 },
      },
      {
        id: 'which',
        kind: 'choose',
        name: 'Were they in already?',
        expected: now,
        cases: [
          {
            id: 'already',
            name: 'In already',
            when: { compare: 'is', left: { ref: 'steps.add.already' }, right: { literal: true } },
            block: [
              {
                id: 'tellAlready',
                kind: 'tell',
                name: 'Tell they were in already',
                expected: now,
                to: { ref: 'request.requester' },
                subject: [[{ text: 'You were in ' }, { ref: 'form.group' }, { text: ' already' }]],
                body: [
                  {
                    text: [
                      [
                        { text: 'Nothing had to be changed: you were a member of ' },
                        { ref: 'form.group' },
                        { text: ' before you asked. If you cannot reach something, call the desk.' },
                      ],
                    ],
                  },
                ],
              },
            ],
          },
        ],
        otherwise: [
          {
            id: 'tellWelcome',
            kind: 'tell',
            name: 'Tell they are in',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'You are in ' }, { ref: 'form.group' }]],
            body: [
              {
                text: [
                  [{ text: 'You are now a member of ' }, { ref: 'form.group' }, { text: ' (request ' }, { ref: 'request.number' }, { text: ').' }],
                  ...sentence('Sign out and in again once, so that your programs notice.'),
                ],
              },
            ],
          },
        ],
      },
    ],
  },
});
