import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Something aboard that the yard looks after: an item in its tracker, followed to its end, with one conversation on both sides. */
export const repairAboard = ({ yard, workplace, lead }: { yard: string; workplace: string; lead: string }): ItemDefinition => ({
  name: 'Repair aboard',
  summary: 'Something aboard Anseli or Kittiwake that the yard has to look after. You and the yard write to each other on the page of your request.',
  category: 'Instruments',
  promise: 'P30D',
  form: {
    fields: [
      {
        id: 'vessel',
        kind: 'choice',
        label: 'Vessel',
        required: true,
        options: [
          { value: 'Anseli', label: 'Anseli' },
          { value: 'Kittiwake', label: 'Kittiwake' },
        ],
      },
      {
        id: 'title',
        kind: 'text',
        label: 'What is wrong',
        help: 'In a line, as in: the port winch pays out by itself.',
        required: true,
      },
      {
        id: 'text',
        kind: 'longText',
        label: 'What there is to know',
        help: 'Where it is, since when, what was tried. The yard reads it.',
        required: true,
      },
    ],
  },
  plan: {
    undoWhen: ['withdrawn'],
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'The manager agrees',
        forRequester: 'Your manager agrees',
        expected: { min: 'PT10M', likely: 'PT4H', max: 'P2D' },
        approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
        rule: { rule: 'all' },
        ownRequest: 'manager',
        nobody: { then: 'ask', person: { person: lead } },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
        sendBack: true,
      },
      {
        id: 'orElse',
        kind: 'guard',
        name: 'By the yard, else by somebody else',
        expected: now,
        body: [
          {
            id: 'yard',
            kind: 'provision',
            name: 'The yard looks after it',
            forRequester: 'The yard looks after it',
            expected: { min: 'P1D', likely: 'P5D', max: 'P20D' },
            action: `web.${yard}.openItem`,
            inputs: {
              title: { ref: 'form.title' },
              text: { ref: 'form.text' },
              vessel: { ref: 'form.vessel' },
              reference: { ref: 'request.number' },
            },
            mirrors: true,
          },
          {
            id: 'tellDone',
            kind: 'tell',
            name: 'Tell what was done',
            forRequester: 'You are told what was done',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'The yard is done, ' }, { ref: 'request.number' }]],
            body: [
              {
                text: [
                  [{ text: 'The yard says it is done: ' }, { ref: 'form.title', bold: true }, { text: ', ' }, { ref: 'form.vessel' }, { text: '.' }],
                ],
              },
              {
                when: { has: { ref: 'steps.yard.done' } },
                text: [[{ text: 'What was done: ' }, { ref: 'steps.yard.done' }]],
              },
            ],
          },
        ],
        remedy: [
          {
            id: 'byOthers',
            kind: 'task',
            name: 'Find somebody else who mends it',
            forRequester: 'Somebody else is found to mend it',
            expected: { min: 'P1D', likely: 'P3D', max: 'P10D' },
            assignee: { team: workplace },
            instructions: [
              {
                text: [
                  [
                    { text: 'The yard did not do it; why stands in the trace. ' },
                    { ref: 'form.title', bold: true },
                    { text: ' on ' },
                    { ref: 'form.vessel' },
                    { text: ': see who else can, and have it done.' },
                  ],
                ],
              },
            ],
            checklist: [{ id: 'told', words: 'The watch aboard knows who comes, and when' }],
            fields: [{ id: 'how', kind: 'text', label: 'Who mended it, and how', required: true }],
            due: { within: 'P10D' },
          },
          {
            id: 'tellOther',
            kind: 'tell',
            name: 'Tell who mended it',
            forRequester: 'You are told who mended it',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'It is mended, ' }, { ref: 'request.number' }]],
            body: [
              { text: [[{ text: 'The yard did not do it. ' }, { ref: 'steps.byOthers.how' }]] },
              { text: sentence('If it is not as it should be, report it.') },
            ],
          },
        ],
      },
    ],
  },
});
