import type { ItemDefinition } from '../core/items/index.ts';
import { passages } from '../core/plans/index.ts';
import { sentence } from '../core/values/index.ts';
import { needs } from './role-needs.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const hours = (min: number, likely: number, max: number) => ({ min: `PT${min}H`, likely: `PT${likely}H`, max: `PT${max}H` });

/** Their name within a text. */
const colleague = [{ ref: 'form.given' }, { text: ' ' }, { ref: 'form.family' }];
const roles = [...new Set(needs.map((n) => n.role))];

/** Everything a new colleague needs by the first day: agreed by the manager, prepared side by side, by the role as a table has it. */
export const colleagueStarting = (teams: { peopleOffice: string; workplace: string }, needsTable: string): ItemDefinition => ({
  name: 'Colleague starting',
  summary: 'Papers, equipment and a desk for somebody new, ready by the first day.',
  category: 'People',
  promise: 'P10D',
  form: {
    fields: [
      { id: 'given', kind: 'text', label: 'Given names', help: 'As the new colleague writes them; the account is named after them.', required: true },
      { id: 'family', kind: 'text', label: 'Family name', required: true },
      { id: 'number', kind: 'text', label: 'Staff number', help: 'Where the staff office has given one.', required: false },
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
        id: 'role',
        kind: 'choice',
        label: 'Job role',
        help: 'What each team prepares follows from it.',
        required: true,
        options: roles.map((role) => ({ value: role, label: role })),
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
        corrects: ['firstDay', 'role'],
        sendBack: true,
      },
      { id: 'agreed', kind: 'mark', name: 'Agreed', expected: now, shows: 'milestone', words: 'Agreed', promised: 'P1D' },
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
        name: 'The teams prepare',
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
                    text: [[{ text: 'Contract for ' }, ...colleague, { text: ', beginning ' }, { ref: 'form.firstDay' }, { text: '.' }]],
                  },
                  {
                    when: { compare: 'is', left: { ref: 'form.contract' }, right: { literal: 'season' } },
                    text: sentence('It ends with the season; the last day is in the request.'),
                  },
                  {
                    when: { has: { ref: 'form.number' } },
                    text: [[{ text: 'The staff office knows them as ' }, { ref: 'form.number', bold: true }, { text: '.' }]],
                  },
                ],
                checklist: [
                  { id: 'signed', words: 'Contract signed by both' },
                  { id: 'payroll', words: 'Payroll told' },
                ],
                fields: [{ id: 'staffNumber', kind: 'text', label: 'Staff number', required: true }],
                due: { by: { ref: 'form.firstDay' } },
                late: {
                  reminders: { after: 'P1D', times: 2 },
                  raise: { after: 'PT4H', to: { from: { ref: 'request.requester' } }, how: 'tell' },
                },
              },
              {
                id: 'account',
                kind: 'provision',
                name: 'Make the account',
                forRequester: 'The account is made',
                expected: { min: 'PT1M', likely: 'PT1M', max: 'PT5M' },
                action: 'directory.createAccount',
                inputs: {
                  given: { ref: 'form.given' },
                  family: { ref: 'form.family' },
                  // By it they are known: who was here before has the old account again.
                  staffNumber: { ref: 'steps.contractPapers.staffNumber' },
                  jobRole: { ref: 'form.role' },
                  manager: { ref: 'request.requester' },
                },
                // Whoever begins cannot sign in yet: the first password is opened with them.
                note: { to: { ref: 'request.requester' }, openFor: 'P21D' },
              },
            ],
          },
          {
            id: 'byRole',
            name: 'By the role',
            block: [
              {
                id: 'needs',
                kind: 'find',
                name: 'Find what the role needs',
                expected: now,
                lookup: { find: 'rows', table: needsTable, where: { role: { ref: 'form.role' } } },
              },
              {
                id: 'eachNeed',
                kind: 'forEach',
                name: 'Each thing it needs',
                expected: now,
                list: { ref: 'steps.needs.rows' },
                body: [
                  {
                    id: 'prepareFor',
                    kind: 'task',
                    name: 'Prepare it',
                    forRequester: 'What the role needs is prepared',
                    expected: { min: 'PT15M', likely: 'PT30M', max: 'PT2H' },
                    assignee: { from: { ref: 'row.value.team' } },
                    tellTeam: true,
                    instructions: [
                      {
                        text: [
                          [
                            { ref: 'row.value.what', bold: true },
                            { text: ' for ' },
                            ...colleague,
                            { text: ', ' },
                            { ref: 'form.role' },
                            { text: ':' },
                          ],
                          [{ ref: 'row.value.todo' }],
                        ],
                      },
                    ],
                    checklist: [],
                    fields: [{ id: 'serial', kind: 'text', label: 'Serial number', required: false }],
                    due: { by: { ref: 'form.firstDay' }, workingDaysBefore: 1 },
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
                            ...colleague,
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
      {
        id: 'welcome',
        kind: 'write',
        name: 'Write the letter of welcome',
        forRequester: 'The letter of welcome is written',
        expected: now,
        fileName: [[{ text: 'Welcome ' }, ...colleague]],
        head: sentence('Skerrin Hydrographic, People office'),
        title: [[{ text: 'Welcome, ' }, ...colleague]],
        body: [
          {
            text: [
              [
                { text: 'We are glad that you begin as ' },
                { ref: 'form.role' },
                { text: ' on ' },
                { ref: 'form.firstDay', bold: true },
                { text: '. ' },
                { ref: 'form.mentor' },
                { text: ' meets you at the door at nine and shows you around; your manager is ' },
                { ref: 'request.requester' },
                { text: '.' },
              ],
            ],
          },
          {
            when: { compare: 'is', left: { ref: 'form.contract' }, right: { literal: 'season' } },
            text: [[{ text: 'Your contract runs to the end of the season. Its last day stands in it.' }]],
          },
          {
            when: { has: { ref: 'steps.findDesk.desk' } },
            text: [[{ text: 'You sit here: ' }, { ref: 'steps.findDesk.desk', bold: true }, { text: '.' }]],
          },
          {
            when: { compare: 'more', left: { ref: 'steps.needs.count' }, right: { literal: 0 } },
            text: sentence('This lies ready for you:'),
            table: {
              list: { ref: 'steps.needs.rows' },
              columns: [
                { id: 'what', head: 'What' },
                { id: 'team', head: 'Prepared by' },
              ],
            },
          },
          {
            text: [
              [{ text: 'On your first morning:' }],
              {
                list: 'numbers',
                items: [
                  [{ text: 'bring a pass with a photograph' }],
                  [{ text: 'open the sealed note with your first password, together with your manager' }],
                  [{ text: 'read the ' }, { text: 'house guide', link: 'https://intranet.skerrin.example/house' }],
                ],
              },
              [{ text: 'The People office of Skerrin Hydrographic' }],
            ],
          },
        ],
        numbered: true,
      },
      {
        id: 'tellWelcome',
        kind: 'tell',
        name: 'Send the letter of welcome',
        forRequester: 'You are sent the letter of welcome',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'The letter of welcome for ' }, ...colleague]],
        body: [{ text: sentence('Everything is prepared. The letter goes with this mail: send it on, or print it for the first morning.') }],
        attaches: [{ ref: 'steps.welcome.file' }],
      },
      {
        id: 'ready',
        kind: 'mark',
        name: 'Everything is ready',
        expected: now,
        shows: 'milestone',
        words: 'Everything is ready',
        promised: 'P5D',
        noReturn: true,
      },
      {
        id: 'tryTalk',
        kind: 'guard',
        name: 'If there is a time for it',
        expected: now,
        body: [
          {
            id: 'firstTalk',
            kind: 'invite',
            name: 'Arrange the first talk',
            forRequester: 'The first talk is arranged',
            expected: now,
            who: [{ ref: 'request.requester' }, { ref: 'form.mentor' }],
            title: [[{ text: 'First talk with ' }, ...colleague]],
            place: sentence('Quay House, by the entrance'),
            body: [
              {
                text: [
                  [
                    ...colleague,
                    { text: ' begins on ' },
                    { ref: 'form.firstDay' },
                    { text: '. Say what the first weeks are for, and who helps with what.' },
                  ],
                ],
              },
            ],
            minutes: 30,
            from: { ref: 'form.firstDay' },
            within: 5,
            notice: 'PT4H',
          },
        ],
        remedy: [
          {
            id: 'tellNoTalk',
            kind: 'tell',
            name: 'Tell that there is no time for it',
            expected: now,
            to: { ref: 'request.requester' },
            subject: [[{ text: 'No time for the first talk with ' }, ...colleague]],
            body: [{ text: sentence('There is no half hour at which you and the mentor are free. Please agree on one between you.') }],
          },
        ],
      },
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
              [...colleague, { text: ' begins today. Show them, in this order:' }],
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
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that all is done',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[...colleague, { text: ' has started' }]],
        body: [
          {
            text: [
              [
                ...colleague,
                { text: ' was shown around by ' },
                { ref: 'steps.around.doneBy' },
                { text: '. Staff number ' },
                { ref: 'steps.contractPapers.staffNumber' },
                { text: ', user name ' },
                { ref: 'steps.account.userName' },
                { text: '.' },
              ],
            ],
          },
          {
            when: { compare: 'more', left: { ref: 'steps.needs.count' }, right: { literal: 0 } },
            text: [[{ text: 'Prepared for the role: ' }, { ref: 'steps.needs.count' }, { text: '.' }]],
          },
        ],
      },
    ],
  },
});
