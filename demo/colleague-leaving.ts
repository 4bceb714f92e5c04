import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Somebody leaves: they hand over to whoever asked, as long as there is time; on the last day what they carry is handed in and their account is closed; what they hold goes back by itself. */
export const colleagueLeaving = (workplace: string): ItemDefinition => ({
  name: 'Colleague leaving',
  summary: 'What is handed in on the last day, and the account closed.',
  category: 'People',
  form: {
    fields: [
      { id: 'colleague', kind: 'person', label: 'Colleague', required: true },
      { id: 'lastDay', kind: 'date', label: 'Last day', required: true },
    ],
  },
  plan: {
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'Their manager agrees',
        forRequester: 'Their manager agrees',
        expected: { min: 'PT1H', likely: 'PT4H', max: 'P1D' },
        approvers: { from: 'managerOf', person: { ref: 'form.colleague' } },
        rule: { rule: 'first' },
        ownRequest: 'skip',
        nobody: { then: 'pass' },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
        corrects: ['lastDay'],
      },
      {
        id: 'ahead',
        kind: 'workOut',
        name: 'Is the last day still ahead?',
        expected: now,
        feel: 'date(form.lastDay) > date(request.opened)',
        type: 'boolean',
      },
      {
        id: 'before',
        kind: 'together',
        name: 'Before they go',
        expected: now,
        join: 'all',
        branches: [
          {
            id: 'handOver',
            name: 'Handing over',
            block: [
              {
                id: 'inTime',
                kind: 'choose',
                name: 'While there is time',
                expected: now,
                cases: [
                  {
                    id: 'yes',
                    name: 'The last day is ahead',
                    when: { compare: 'is', left: { ref: 'steps.ahead.value' }, right: { literal: true } },
                    block: [
                      {
                        id: 'tryTalk',
                        kind: 'guard',
                        name: 'If there is a time for it',
                        expected: now,
                        body: [
                          {
                            id: 'talk',
                            kind: 'invite',
                            name: 'Arrange the handing over',
                            forRequester: 'The handing over is arranged',
                            expected: { min: 'PT1H', likely: 'P1D', max: 'P5D' },
                            who: [{ ref: 'form.colleague' }, { ref: 'request.requester' }],
                            title: [[{ text: 'Handing over before ' }, { ref: 'form.colleague' }, { text: ' leaves' }]],
                            place: sentence('Quay House, floor 2'),
                            body: [
                              {
                                text: [
                                  [
                                    { text: 'What goes on after ' },
                                    { ref: 'form.lastDay' },
                                    { text: ': who has what from then on, and where it stands.' },
                                  ],
                                ],
                              },
                            ],
                            minutes: 60,
                            within: 10,
                            notice: 'PT4H',
                            waits: { again: 2 },
                          },
                        ],
                        remedy: [
                          {
                            id: 'tellNoTime',
                            kind: 'tell',
                            name: 'Tell that there is no time for it',
                            expected: now,
                            to: { ref: 'request.requester' },
                            subject: [[{ text: 'No time for handing over before ' }, { ref: 'form.colleague' }, { text: ' leaves' }]],
                            body: [{ text: sentence('There is no hour at which both of you are free. Please agree on one between you.') }],
                          },
                        ],
                      },
                    ],
                  },
                ],
                otherwise: [],
              },
            ],
          },
          {
            id: 'lastDay',
            name: 'The last day',
            block: [
              {
                id: 'lastMorning',
                kind: 'pause',
                name: 'Until the last day',
                forRequester: 'Until the last day',
                expected: now,
                until: { date: { ref: 'form.lastDay' } },
              },
              {
                id: 'handIn',
                kind: 'task',
                name: 'Take what they hand in',
                forRequester: 'What they carry is handed in',
                expected: { min: 'PT15M', likely: 'PT30M', max: 'PT2H' },
                assignee: { team: workplace },
                tellTeam: true,
                instructions: [{ text: [[{ ref: 'form.colleague', bold: true }, { text: ' leaves today. Take keys, card and equipment.' }]] }],
                checklist: [
                  { id: 'keys', words: 'Keys and card' },
                  { id: 'equipment', words: 'Equipment' },
                ],
                fields: [],
                due: { by: { ref: 'form.lastDay' } },
              },
              {
                id: 'close',
                kind: 'provision',
                name: 'Close the account',
                forRequester: 'The account is closed',
                expected: { min: 'PT1M', likely: 'PT1M', max: 'PT5M' },
                action: 'directory.disableAccount',
                inputs: { person: { ref: 'form.colleague' } },
              },
            ],
          },
        ],
      },
      {
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that all is done',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ ref: 'form.colleague' }, { text: ' has left' }]],
        body: [{ text: sentence('What they carried is handed in and their account is closed. What else they hold goes back by itself.') }],
      },
    ],
  },
});
