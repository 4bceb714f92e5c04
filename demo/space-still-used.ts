import type { ItemDefinition } from '../core/items/index.ts';
import type { Step } from '../core/plans/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** What somebody does about a space where its owner or its system does not. */
const byHand = (team: string, id: string, name: string, words: string): Step => ({
  id,
  kind: 'task',
  name,
  forRequester: 'Somebody looks after the space',
  expected: { min: 'PT10M', likely: 'PT30M', max: 'PT4H' },
  assignee: { team },
  instructions: [
    {
      text: [
        [{ ref: 'form.space.space', bold: true }, { text: ' was used by nobody for ' }, { ref: 'form.space.idle' }, { text: ' days.' }],
        [{ text: words }],
      ],
    },
  ],
  checklist: [],
  fields: [],
});

/** Nobody has used a space for long: its first owner is asked whether it is still needed. Where nobody answers, `access` looks after it. */
export const spaceStillUsed = (spaces: string, open: string, access: string): ItemDefinition => ({
  name: 'Is a project space still used',
  summary: 'Asked for by itself when nobody has used a space for 90 days.',
  category: 'Access',
  form: {
    fields: [
      { id: 'space', kind: 'row', label: 'Space', required: true, table: open },
      { id: 'name', kind: 'text', label: 'Its name', required: false, held: 'locked', prefill: { row: 'space', column: 'space' } },
      { id: 'owner', kind: 'person', label: 'Its first owner', required: false, held: 'locked', prefill: { row: 'space', column: 'owner' } },
      { id: 'idle', kind: 'number', label: 'Days without use', required: false, held: 'locked', prefill: { row: 'space', column: 'idle' } },
    ],
  },
  plan: {
    steps: [
      {
        id: 'whose',
        kind: 'choose',
        name: 'Is its first owner known?',
        expected: now,
        cases: [
          {
            id: 'known',
            name: 'Its first owner is known',
            when: { has: { ref: 'form.owner' } },
            block: [
              {
                id: 'orLooked',
                kind: 'guard',
                name: 'Its owner says',
                expected: now,
                body: [
                  {
                    id: 'needed',
                    kind: 'askBack',
                    name: 'Ask whether it is still needed',
                    forRequester: 'Its first owner is asked whether it is still needed',
                    to: { ref: 'form.owner' },
                    expected: { min: 'PT10M', likely: 'P1D', max: 'P5D' },
                    question: [
                      [
                        { text: 'Nobody has used the project space ' },
                        { ref: 'form.space.space', bold: true },
                        { text: ' for ' },
                        { ref: 'form.space.idle' },
                        { text: ' days, and you own it. Is it still needed? Closed, it is kept as it is, and nobody writes into it.' },
                      ],
                    ],
                    fields: [
                      {
                        id: 'answer',
                        kind: 'choice',
                        label: 'The space',
                        required: true,
                        options: [
                          { value: 'keep', label: 'Is still needed' },
                          { value: 'close', label: 'Can be closed' },
                        ],
                      },
                    ],
                    reminders: { after: 'P2D', times: 2 },
                  },
                  {
                    id: 'which',
                    kind: 'choose',
                    name: 'Can it be closed?',
                    expected: now,
                    cases: [
                      {
                        id: 'close',
                        name: 'It can be closed',
                        when: { compare: 'is', left: { ref: 'steps.needed.answer' }, right: { literal: 'close' } },
                        block: [
                          {
                            id: 'closeIt',
                            kind: 'provision',
                            name: 'Close the space',
                            forRequester: 'The space is closed',
                            expected: now,
                            action: `web.${spaces}.close`,
                            inputs: { space: { ref: 'form.space.space' } },
                            retries: { times: 3, firstPauseSeconds: 30, factor: 4 },
                          },
                        ],
                      },
                    ],
                    otherwise: [],
                  },
                ],
                deadline: { length: 'P10D', counted: 'working' },
                late: [
                  byHand(
                    access,
                    'lookAfter',
                    'Ask who needs the space',
                    'Its first owner did not answer. Ask its other owners, and close it if none of them needs it.',
                  ),
                ],
                remedy: [
                  byHand(
                    access,
                    'closeByHand',
                    'Close the space by hand',
                    'It can be closed, and its system did not do it: the trace says why. Close it there.',
                  ),
                ],
              },
            ],
          },
        ],
        otherwise: [
          byHand(
            access,
            'findOwner',
            'Find who owns the space',
            'Who owned it first does not work here any more. Ask its other owners, and close it if none of them needs it.',
          ),
        ],
      },
      {
        id: 'tellEnd',
        kind: 'tell',
        name: 'Tell what became of it',
        forRequester: 'You are told what became of it',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your project space, ' }, { ref: 'request.number' }]],
        body: [{ text: sentence('What was decided about it is done. If nobody uses it you are asked again in 90 days.') }],
      },
    ],
  },
});
