import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

interface Asks {
  /** The team that sets up by hand what the system of the spaces does not. */
  access: string;
  /** The group of which an owner agrees to what everyone reads, besides the manager. */
  signoff: string;
  /** The system of the spaces, and the table of what one can begin with. */
  spaces: string;
  templates: string;
}

/** A shared place for a survey's files: a name that nobody has, and (common practice, no source) two owners at least, who agree to be it. */
export const projectSpace = ({ access, signoff, spaces, templates }: Asks): ItemDefinition => ({
  name: 'Project space',
  summary: 'A shared place for the files of a survey or a chart.',
  category: 'Access',
  promise: 'P7D',
  form: {
    sections: [
      {
        id: 'space',
        before: 'name',
        title: 'The space',
        note: sentence('Its name stands in every link to it, and is not changed later: choose one that says which waters it is about.'),
      },
      {
        id: 'people',
        before: 'owners',
        title: 'Who answers for it',
        note: sentence('Owners let others in. With two of them somebody is there while one is at sea.'),
        twoColumns: true,
      },
    ],
    fields: [
      {
        id: 'name',
        kind: 'text',
        label: 'Name of the space',
        help: 'Small letters, digits and hyphens, as in torvay-sound-2027.',
        required: true,
        shape: { pieces: [{ of: 'nameCharacters', least: 3, most: 30 }], sentence: 'A name has 3 to 30 letters, digits or hyphens, and no blanks.' },
        unique: { among: 'system', action: `web.${spaces}.isTaken` },
      },
      {
        id: 'seen',
        kind: 'choice',
        label: 'Who may read it',
        required: true,
        options: [
          { value: 'members', label: 'Its members' },
          { value: 'everyone', label: 'Everyone at the institute' },
        ],
        default: 'members',
      },
      { id: 'template', kind: 'row', label: 'Begins with', required: true, table: templates },
      { id: 'purpose', kind: 'longText', label: 'What it is for', required: true },
      { id: 'owners', kind: 'people', label: 'Owners', required: true, min: 2, max: 5 },
      { id: 'department', kind: 'text', label: 'Department', required: false, held: 'locked', prefill: { ofAsker: 'department' } },
      { id: 'call', kind: 'phone', label: 'Telephone', help: 'Where somebody answers who knows of it.', required: false },
    ],
    tests: [
      {
        id: 'blank',
        name: 'A name with a blank',
        answers: { name: 'Torvay Sound' },
        refused: { field: 'name', sentence: 'A name has 3 to 30 letters, digits or hyphens, and no blanks.' },
      },
    ],
  },
  plan: {
    undoWhen: ['withdrawn', 'failed'],
    steps: [
      {
        id: 'open',
        kind: 'choose',
        name: 'May everyone read it?',
        expected: now,
        cases: [
          {
            id: 'everyone',
            name: 'Everyone at the institute',
            when: { compare: 'is', left: { ref: 'form.seen' }, right: { literal: 'everyone' } },
            block: [
              {
                id: 'agree',
                kind: 'gate',
                name: 'The manager and the sign-off agree that everyone may read it',
                forRequester: 'Your manager and the chart sign-off agree',
                expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
                approvers: {
                  from: 'several',
                  of: [
                    { from: 'managerOf', person: { ref: 'request.requester' } },
                    { from: 'ownersOf', group: { literal: { group: signoff } } },
                  ],
                },
                rule: { rule: 'oneOfEach' },
                ownRequest: 'skip',
                nobody: { then: 'pass' },
                deadline: 'P5D',
                sendBack: true,
              },
            ],
          },
        ],
        otherwise: [],
      },
      {
        id: 'theirWord',
        kind: 'gate',
        name: 'Those who are to own it agree',
        forRequester: 'Those who are to own it agree',
        expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
        approvers: { from: 'person', person: { ref: 'form.owners' } },
        rule: { rule: 'all' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
        corrects: ['owners'],
      },
      {
        id: 'orByHand',
        kind: 'guard',
        name: 'By the system, else by hand',
        expected: now,
        body: [
          {
            id: 'prepare',
            kind: 'provision',
            name: 'Prepare the space',
            forRequester: 'The space is prepared',
            expected: now,
            action: `web.${spaces}.prepare`,
            inputs: {
              name: { ref: 'form.name' },
              template: { ref: 'form.template.code' },
              seen: { ref: 'form.seen' },
              purpose: { ref: 'form.purpose' },
            },
            retries: { times: 3, firstPauseSeconds: 30, factor: 4 },
          },
          {
            id: 'eachOwner',
            kind: 'forEach',
            name: 'For each owner',
            expected: now,
            list: { ref: 'form.owners' },
            atOnce: 1,
            body: [
              {
                id: 'own',
                kind: 'provision',
                name: 'Make them an owner',
                forRequester: 'Its owners are named',
                expected: now,
                action: `web.${spaces}.addOwner`,
                inputs: { space: { ref: 'form.name' }, owner: { ref: 'row.value' } },
                retries: { times: 3, firstPauseSeconds: 30, factor: 4 },
              },
            ],
          },
          {
            id: 'openIt',
            kind: 'provision',
            name: 'Open the space',
            forRequester: 'The space is open',
            expected: now,
            action: `web.${spaces}.open`,
            inputs: { space: { ref: 'form.name' } },
            retries: { times: 3, firstPauseSeconds: 30, factor: 4 },
          },
        ],
        remedy: [
          {
            id: 'setUp',
            kind: 'task',
            name: 'Set up the space by hand',
            forRequester: 'The space is set up',
            expected: { min: 'PT10M', likely: 'PT30M', max: 'PT4H' },
            assignee: { team: access },
            instructions: [
              {
                text: [
                  [
                    { text: 'The system of the spaces did not set up ' },
                    { ref: 'form.name', bold: true },
                    { text: '. Look at the trace for why; set it up, read by ' },
                    { ref: 'form.seen' },
                    { text: ', owned by ' },
                    { ref: 'form.owners' },
                    { text: ', or correct its name with them.' },
                  ],
                ],
              },
            ],
            checklist: [{ id: 'backup', words: 'Stands in the nightly backup' }],
            fields: [],
            corrects: ['name', 'owners'],
            due: { within: 'P1D' },
          },
        ],
      },
      {
        id: 'tellReady',
        kind: 'tell',
        name: 'Tell that it is there',
        forRequester: 'You are told that it is there',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your project space is there, ' }, { ref: 'request.number' }]],
        body: [{ text: [[{ ref: 'form.name', bold: true }, { text: ' is set up. Its owners let others in.' }]] }],
      },
    ],
  },
});
