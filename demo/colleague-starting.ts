import type { ItemDefinition } from '../core/items/index.ts';
import { passages } from '../core/plans/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const hours = (min: number, likely: number, max: number) => ({ min: `PT${min}H`, likely: `PT${likely}H`, max: `PT${max}H` });

/** Everything a new colleague needs by the first day: agreed by the manager, done side by side by three teams. */
export const colleagueStarting = (teams: { peopleOffice: string; stores: string; workplace: string }): ItemDefinition => ({
  name: 'Colleague starting',
  summary: 'Papers, equipment and a desk for somebody new, ready by the first day.',
  category: 'People',
  promise: 'P10D',
  form: {
    fields: [
      { id: 'colleague', kind: 'text', label: 'Name of the new colleague', required: true },
      { id: 'firstDay', kind: 'date', label: 'First day', required: true },
      {
        id: 'contract',
        kind: 'choice',
        label: 'Kind of contract',
        required: true,
        options: [
          { value: 'permanent', label: 'Permanent' },
          { value: 'season', label: 'For a season' },
        ],
      },
      {
        id: 'kit',
        kind: 'choices',
        label: 'Equipment',
        help: 'Each is handed out by Stores.',
        required: true,
        options: [
          { value: 'laptop', label: 'Laptop' },
          { value: 'fieldTablet', label: 'Field tablet' },
          { value: 'lifeVest', label: 'Life vest' },
        ],
      },
      { id: 'mentor', kind: 'person', label: 'Mentor', help: 'Shows them around on the first day.', required: true },
    ],
  },
  plan: {
    undoWhen: ['failed', 'withdrawn'],
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'The manager agrees',
        forRequester: 'The manager agrees',
        expected: hours(1, 4, 24),
        approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
        rule: { rule: 'first' },
        ownRequest: 'skip',
        nobody: { then: 'pass' },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
        corrects: ['firstDay', 'kit'],
        sendBack: true,
      },
      { id: 'agreed', kind: 'mark', name: 'Agreed', expected: now, shows: 'milestone', words: 'Agreed' },
      {
        id: 'season',
        kind: 'choose',
        name: 'For a season?',
        expected: now,
        cases: [
          {
            id: 'season',
            name: 'For a season',
            share: 30,
            when: { compare: 'is', left: { ref: 'form.contract' }, right: { literal: 'season' } },
            block: [
              {
                id: 'until',
                kind: 'askBack',
                name: 'Ask for the last day',
                forRequester: 'Until when the season lasts',
                expected: hours(1, 4, 16),
                question: sentence('Until which day does the contract run?'),
                fields: [{ id: 'lastDay', kind: 'date', label: 'Last day', required: true }],
                reminders: { after: 'P1D', times: 2 },
              },
            ],
          },
        ],
        otherwise: [],
      },
      {
        id: 'prepare',
        kind: 'together',
        name: 'Three teams prepare',
        expected: now,
        join: 'all',
        branches: [
          {
            id: 'papers',
            name: 'Papers',
            block: [
              {
                id: 'contractPapers',
                kind: 'task',
                name: 'Make the contract ready',
                forRequester: 'The contract is made ready',
                expected: hours(1, 3, 8),
                assignee: { team: teams.peopleOffice },
                instructions: [
                  {
                    text: [[{ text: 'Contract for ' }, { ref: 'form.colleague' }, { text: ', beginning ' }, { ref: 'form.firstDay' }, { text: '.' }]],
                  },
                  {
                    when: { compare: 'is', left: { ref: 'form.contract' }, right: { literal: 'season' } },
                    text: sentence('It ends with the season; the last day is in the request.'),
                  },
                ],
                checklist: [
                  { id: 'signed', words: 'Contract signed by both' },
                  { id: 'payroll', words: 'Payroll told' },
                ],
                fields: [{ id: 'staffNumber', kind: 'text', label: 'Staff number', required: true }],
                due: { by: { ref: 'form.firstDay' } },
              },
            ],
          },
          {
            id: 'equipment',
            name: 'Equipment',
            block: [
              {
                id: 'eachKit',
                kind: 'forEach',
                name: 'Each piece of equipment',
                expected: now,
                list: { ref: 'form.kit' },
                body: [
                  {
                    id: 'handOut',
                    kind: 'task',
                    name: 'Hand out from Stores',
                    forRequester: 'Equipment is handed out',
                    expected: { min: 'PT15M', likely: 'PT30M', max: 'PT2H' },
                    assignee: { team: teams.stores },
                    instructions: [
                      {
                        text: [
                          [{ text: 'Take a ' }, { ref: 'row.value' }, { text: ' from the shelf for ' }, { ref: 'form.colleague' }, { text: '.' }],
                        ],
                      },
                    ],
                    checklist: [],
                    fields: [{ id: 'serial', kind: 'text', label: 'Serial number', required: true }],
                    due: { within: 'P3D' },
                  },
                ],
              },
            ],
          },
          {
            id: 'desk',
            name: 'A desk',
            block: [
              {
                id: 'deskInTime',
                kind: 'guard',
                name: 'A desk in time',
                expected: now,
                deadline: { length: 'P3D', counted: 'working' },
                body: [
                  {
                    id: 'findDesk',
                    kind: 'task',
                    name: 'Find a desk',
                    forRequester: 'A desk is found',
                    expected: hours(1, 2, 8),
                    assignee: { team: teams.workplace },
                    instructions: passages('Find a desk near the team, with two screens.'),
                    checklist: [],
                    fields: [{ id: 'desk', kind: 'text', label: 'Room and desk', required: true }],
                    due: { within: 'P2D' },
                  },
                ],
                remedy: [],
                late: [
                  {
                    id: 'tellLate',
                    kind: 'tell',
                    name: 'Tell that no desk was found',
                    expected: now,
                    to: { ref: 'request.requester' },
                    subject: sentence('No desk found in time'),
                    body: [
                      {
                        text: [
                          [
                            { text: 'No desk was found for ' },
                            { ref: 'form.colleague' },
                            { text: ' in three working days. Please agree on a place with your team for the first weeks.' },
                          ],
                        ],
                      },
                    ],
                  },
                ],
              },
            ],
          },
        ],
      },
      { id: 'ready', kind: 'mark', name: 'Everything is ready', expected: now, shows: 'milestone', words: 'Everything is ready', noReturn: true },
      {
        id: 'firstMorning',
        kind: 'pause',
        name: 'Until the first day',
        forRequester: 'Until the first day',
        expected: now,
        until: { date: { ref: 'form.firstDay' } },
      },
      {
        id: 'around',
        kind: 'task',
        name: 'Show them around',
        forRequester: 'They are shown around',
        expected: hours(1, 2, 4),
        assignee: { from: { ref: 'form.mentor' } },
        instructions: [
          {
            text: [
              [{ ref: 'form.colleague', bold: true }, { text: ' begins today. Show them, in this order:' }],
              {
                list: 'numbers',
                items: [
                  [{ text: 'Quay House, with the ' }, { text: 'ways out', bold: true }, { text: ' and the first-aid box on floor 2' }],
                  [{ text: 'the stores, and who hands out what' }],
                  [{ text: 'the people they will work with' }],
                ],
              },
              [{ text: 'The ' }, { text: 'house guide', link: 'https://intranet.skerrin.example/house' }, { text: ' has a map of each floor.' }],
            ],
          },
        ],
        checklist: [
          { id: 'house', words: 'Around the house, with the ways out' },
          { id: 'people', words: 'Met the team' },
        ],
        fields: [],
        due: { by: { ref: 'form.firstDay' } },
      },
      {
        id: 'count',
        kind: 'workOut',
        name: 'Count the equipment',
        expected: now,
        feel: 'count(form.kit)',
        type: 'number',
      },
      {
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that all is done',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ ref: 'form.colleague' }, { text: ' has started' }]],
        body: [
          {
            text: [
              [
                { ref: 'form.colleague' },
                { text: ' was shown around by ' },
                { ref: 'steps.around.doneBy' },
                { text: '. Staff number ' },
                { ref: 'steps.contractPapers.staffNumber' },
                { text: '.' },
              ],
            ],
          },
          {
            when: { compare: 'more', left: { ref: 'steps.count.value' }, right: { literal: 0 } },
            text: [[{ text: 'Equipment handed out: ' }, { ref: 'steps.count.value' }, { text: '.' }]],
          },
        ],
      },
    ],
  },
});
