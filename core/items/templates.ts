import type { Field } from '../forms/index.ts';
import type { Block, Gate, Step, Task } from '../plans/index.ts';
import type { RichText } from '../values/index.ts';
import { blankItem, type ItemDefinition } from './definition.ts';

/** Something to begin an item from: whole but for what a house has to say itself (teams, its own choices), which the check names. */
export interface Template {
  id: string;
  name: string;
  /** What it is for, in a sentence. */
  purpose: string;
  /** The item it begins, under this name. */
  make: (name: string) => ItemDefinition;
}

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const soon = { min: 'PT15M', likely: 'PT1H', max: 'P1D' };
const requester = { ref: 'request.requester' };

const field = (id: string, kind: Field['kind'], label: string, more: Partial<Field> = {}): Field => ({ id, kind, label, required: true, ...more });
const choices = (...labels: string[]) => labels.map((label) => ({ value: label.toLowerCase().replace(/[^a-z0-9]+/g, '-'), label }));

/** Words with values in them: `{form.machine}` stands for the value at that place. */
const words = (text: string): RichText => [
  text
    .split(/(\{[a-zA-Z0-9_.]+\})/)
    .filter(Boolean)
    .map((piece) => (piece.startsWith('{') ? { ref: piece.slice(1, -1) } : { text: piece })),
];

const managerAgrees = (more: Partial<Gate> = {}): Step => ({
  id: 'agree',
  kind: 'gate',
  name: 'The manager agrees',
  forRequester: 'Your manager agrees',
  expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' },
  approvers: { from: 'managerOf', person: requester },
  rule: { rule: 'any' },
  ownRequest: 'skip',
  nobody: { then: 'fail' },
  // Common practice, no source: at most two reminders, closed after five days.
  reminders: { after: 'P1D', times: 2 },
  deadline: 'P5D',
  sendBack: true,
  ...more,
});
const task = (id: string, name: string, instructions: string, more: Partial<Task> = {}): Step => ({
  id,
  kind: 'task',
  name,
  expected: soon,
  instructions: [{ text: words(instructions) }],
  checklist: [],
  fields: [],
  due: { within: 'P2D' },
  late: { reminders: { after: 'P1D', times: 2 } },
  ...more,
});
const tell = (subject: string, body: string): Step => ({
  id: 'tellDone',
  kind: 'tell',
  name: 'Tell that it is done',
  forRequester: 'You are told that it is done',
  expected: now,
  to: requester,
  subject: words(`${subject}, {request.number}`),
  body: [{ text: words(body) }],
});

const template = (id: string, name: string, purpose: string, fields: Field[], steps: Block, more: Partial<ItemDefinition> = {}): Template => ({
  id,
  name,
  purpose,
  make: (called) => ({ ...blankItem(called), summary: purpose, category: '', form: { fields }, plan: { steps }, ...more }),
});

/** What ships to begin from. */
export const templates: readonly Template[] = [
  template(
    'question',
    'A question to a team',
    'Ask a team something; it answers from its task.',
    [field('question', 'longText', 'What would you like to know'), field('papers', 'files', 'Papers that belong to it', { required: false, max: 5 })],
    [
      task('answer', 'Answer the question', '{form.question}', { fields: [field('answer', 'longText', 'The answer')] }),
      tell('An answer to your question', '{steps.answer.answer}'),
    ],
    { promise: 'P3D' },
  ),
  template(
    'group',
    'Access to a group',
    'Become a member of a group; its owners decide, and the directory is changed.',
    [field('group', 'group', 'Group'), field('reason', 'longText', 'Why')],
    [
      {
        ...managerAgrees(),
        name: 'An owner agrees',
        forRequester: 'An owner of the group agrees',
        approvers: { from: 'ownersOf', group: { ref: 'form.group' } },
        rule: { rule: 'first' },
      } as Step,
      {
        id: 'add',
        kind: 'provision',
        name: 'Add to the group',
        forRequester: 'You are made a member',
        expected: now,
        action: 'directory.addMember',
        inputs: { group: { ref: 'form.group' }, person: requester },
      } as Step,
      tell('You are a member of the group', 'You are a member of {form.group} now.'),
    ],
    { promise: 'P5D' },
  ),
  template(
    'loan',
    'Something on loan',
    'Borrow something for some days; it is handed out and taken back.',
    [
      field('what', 'choice', 'What', { options: choices('Field tablet', 'Projector', 'Handheld radio') }),
      field('from', 'date', 'From'),
      field('until', 'date', 'Until'),
      field('purpose', 'longText', 'What for', { required: false }),
    ],
    [
      managerAgrees(),
      task('handOut', 'Hand it out', 'Hand out a {form.what} to {request.requester}.', {
        fields: [field('serial', 'text', 'Serial number')],
        due: { by: { ref: 'form.from' } },
      }),
      { id: 'lent', kind: 'mark', name: 'Handed out', expected: now, shows: 'status', words: 'Handed out' },
      { id: 'wait', kind: 'pause', name: 'Until it is due back', expected: now, until: { date: { ref: 'form.until' } } },
      task('takeBack', 'Take it back', 'Take back the {form.what} with the serial number {steps.handOut.serial} from {request.requester}.', {
        due: { within: 'P1D' },
      }),
      tell('It is back', 'The {form.what} is back. Thank you.'),
    ],
  ),
  template(
    'software',
    'A program or a licence',
    'Have a program installed or a licence assigned, once the manager agrees.',
    [
      field('program', 'text', 'Which program'),
      field('reason', 'longText', 'What you need it for'),
      field('until', 'date', 'Needed until', { required: false }),
    ],
    [
      managerAgrees(),
      task('assign', 'Assign it', 'Assign {form.program} to {request.requester}.', {
        checklist: [{ id: 'free', words: 'A licence is free, or one is bought' }],
      }),
      tell('It is there', '{form.program} is assigned to you.'),
    ],
    { promise: 'P5D' },
  ),
  template(
    'starting',
    'Somebody starts',
    'Everything for a new colleague, ready by the first day.',
    [
      field('name', 'text', 'Name'),
      field('firstDay', 'date', 'First day'),
      field('manager', 'person', 'Manager'),
      field('needs', 'choices', 'Equipment', { options: choices('Laptop', 'Telephone', 'Life vest', 'Nothing') }),
    ],
    [
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
              task('contract', 'Make the papers ready', 'Papers for {form.name}, who begins on {form.firstDay}.', {
                due: { by: { ref: 'form.firstDay' }, workingDaysBefore: 2 },
              }),
            ],
          },
          {
            id: 'account',
            name: 'Account',
            block: [
              task('account', 'Make the account', 'An account for {form.name}, reporting to {form.manager}.', {
                due: { by: { ref: 'form.firstDay' }, workingDaysBefore: 1 },
              }),
            ],
          },
          {
            id: 'desk',
            name: 'Desk and equipment',
            block: [
              task('desk', 'Prepare the desk', 'A desk for {form.name}. Equipment: {form.needs}.', {
                due: { by: { ref: 'form.firstDay' }, workingDaysBefore: 1 },
              }),
            ],
          },
        ],
      },
      { id: 'ready', kind: 'mark', name: 'Everything is ready', expected: now, shows: 'milestone', words: 'Everything is ready' },
      tell('Everything is ready', 'Everything for {form.name} is ready.'),
    ],
  ),
  template(
    'leaving',
    'Somebody leaves',
    'Take back what somebody has, and close what is theirs, by their last day.',
    [field('who', 'person', 'Who leaves'), field('lastDay', 'date', 'Last day')],
    [
      {
        id: 'handover',
        kind: 'together',
        name: 'Before the last day',
        expected: now,
        join: 'all',
        branches: [
          {
            id: 'things',
            name: 'Equipment',
            block: [task('collect', 'Take back the equipment', 'Collect what {form.who} has.', { due: { by: { ref: 'form.lastDay' } } })],
          },
          {
            id: 'work',
            name: 'Work',
            block: [
              task('work', 'See that the work is handed over', 'Who goes on with what {form.who} does?', {
                due: { by: { ref: 'form.lastDay' }, workingDaysBefore: 3 },
              }),
            ],
          },
        ],
      },
      { id: 'until', kind: 'pause', name: 'Until the last day', expected: now, until: { date: { ref: 'form.lastDay' } } },
      task('close', 'Close the accounts', 'Close the accounts of {form.who}.', { due: { within: 'PT4H' } }),
      tell('Everything is closed', 'What {form.who} had is taken back, and the accounts are closed.'),
    ],
    { confidential: { readers: [] } },
  ),
  template(
    'space',
    'A shared space',
    'A place for files of several people, with at least two owners.',
    [
      field('name', 'text', 'Name of the space', { unique: { among: 'open' } }),
      // Common practice, no source: at least two owners.
      field('owners', 'people', 'Owners', { min: 2, max: 5 }),
      field('seen', 'choice', 'Who may read it', { options: choices('Its members', 'Everyone') }),
    ],
    [
      managerAgrees(),
      task('setUp', 'Set up the space', 'Set up {form.name}, owned by {form.owners}, read by {form.seen}.'),
      tell('The space is there', '{form.name} is set up.'),
    ],
    { promise: 'P5D' },
  ),
  template(
    'visit',
    'A visit',
    'A room, a badge and somebody to meet them, for guests on a day.',
    [
      field('day', 'date', 'Day'),
      field('hour', 'time', 'At'),
      field('host', 'person', 'Who receives them', { prefill: { ofAsker: 'self' } }),
      field('guests', 'lines', 'Guests', {
        min: 1,
        max: 20,
        columns: [
          { id: 'name', kind: 'text', label: 'Name', required: true },
          { id: 'from', kind: 'text', label: 'From where', required: false },
        ],
      }),
    ],
    [
      task('room', 'Book a room', 'A room on {form.day} at {form.hour} for {form.host}.', { due: { by: { ref: 'form.day' }, workingDaysBefore: 1 } }),
      {
        id: 'badges',
        kind: 'forEach',
        name: 'A badge for each',
        expected: now,
        list: { ref: 'form.guests' },
        body: [task('badge', 'Make a badge', 'A badge for {row.name}, {form.day}.', { due: { by: { ref: 'form.day' }, workingDaysBefore: 1 } })],
      },
      tell('The visit is prepared', 'The room is booked and the badges are made for {form.day}.'),
    ],
  ),
];
