import { describe, expect, it } from 'vitest';
import { add, catalogue, finish, gate, step, tell, wideForm } from '../testing/samples.ts';
import {
  approversWords,
  branchWords,
  namingOf,
  passages,
  partyWords,
  placesByStep,
  ruleWords,
  stepSentence,
  type Approvers,
  type Step,
} from './index.ts';
import { sentence } from '../values/index.ts';

const plan = { steps: [add] };
const naming = namingOf(placesByStep(plan, wideForm, catalogue).anywhere, catalogue);
const said = (s: Step) => stepSentence(s, naming, catalogue);
const span = (length: string) => ({ length, counted: 'working' as const });
const daily = { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } } as const;

describe('who a gate asks', () => {
  it.each<[Approvers | undefined, string]>([
    [undefined, 'nobody yet'],
    [{ from: 'people', people: [{ person: 'ada' }, { person: 'unknown' }] }, 'Ada Strand, someone who is not known any more'],
    [{ from: 'person', person: { ref: 'form.colleague' } }, 'Colleague'],
    [{ from: 'managerOf', person: { ref: 'request.requester' } }, 'the manager of Requester'],
    [{ from: 'managerOf', person: { ref: 'form.colleague' }, levels: 2 }, 'the manager 2 levels above Colleague'],
    [{ from: 'ownersOf', group: { ref: 'form.group' } }, 'the owners of Group'],
    [{ from: 'team', team: 'desk' }, 'Directory and access'],
    [{ from: 'team', team: 'gone' }, 'a team that does not exist'],
    [{ from: 'chain', person: { ref: 'request.requester' }, levels: 3 }, 'the managers above Requester'],
    [{ from: 'policy', policy: 'spend', inputs: {} }, 'whom the policy Spending names'],
    [{ from: 'policy', policy: 'gone', inputs: {} }, 'whom the policy that does not exist names'],
  ])('%j', (approvers, words) => expect(approversWords(approvers, naming, catalogue)).toBe(words));

  it('and how many must approve', () => {
    expect(ruleWords({ rule: 'all' })).toBe('all of them must approve');
    expect(ruleWords({ rule: 'any' })).toBe('one approval is enough');
    expect(ruleWords({ rule: 'first' })).toBe('the first reply decides');
    expect(ruleWords({ rule: 'atLeast', count: 2 })).toBe('at least 2 must approve');
  });
});

describe('a step as a sentence', () => {
  it.each<[string, Step, string]>([
    [
      'gate with everything',
      gate({ order: 'inTurn', rule: { rule: 'all' }, reminders: { after: 'P1D', times: 2 }, deadline: 'P5D', corrects: ['cores'], sendBack: true }),
      'Ask the owners of Group; all of them must approve, one after another. Remind them after 1 d of working time, at most 2 times. Lapses after 5 d of working time. They may correct Processors. They may send it back.',
    ],
    [
      'gate by policy',
      gate({ approvers: { from: 'policy', policy: 'spend', inputs: {} } }),
      'Ask whom the policy Spending names; the policy says how many must approve.',
    ],
    [
      'gate by chain',
      gate({ approvers: { from: 'chain', person: { ref: 'request.requester' }, levels: 2 } }),
      'Ask the managers above Requester; one after another, each must approve.',
    ],
    [
      'task of a team',
      step('task', 't', {
        assignee: { team: 'desk' },
        instructions: passages('Do'),
        checklist: [{ id: 'a', words: 'A' }],
        fields: [{ id: 'f', kind: 'text', label: 'Serial number', required: true }],
        due: { within: 'PT4H' },
      }),
      'Directory and access does it, due after 4 h of working time. 1 to check off. They fill in Serial number.',
    ],
    [
      'task of a person by a date',
      step('task', 't', {
        assignee: { from: { ref: 'form.colleague' } },
        instructions: [],
        checklist: [],
        fields: [],
        due: { by: { ref: 'form.from' } },
      }),
      'Colleague does it, due by First day.',
    ],
    ['task of nobody', step('task', 't', { instructions: [], checklist: [], fields: [] }), 'Nobody yet does it.'],
    ['provision', add, 'In Directory: add a person to a group (group Group, person Requester).'],
    ['provision, not chosen', { ...add, action: 'gone' } as Step, 'Change something in a system, not chosen yet.'],
    ['tell', tell('a', 'A'), 'Tell Requester: “About your request”.'],
    ['tell in chat', { ...tell('a', 'A'), by: 'chat' } as Step, 'Tell Requester in chat: “About your request”.'],
    ['ask back', step('askBack', 'a', { question: sentence('Which?'), fields: [] }), 'Ask the requester “Which?” and wait; the clock is held.'],
    [
      'find',
      step('find', 'f', { lookup: { find: 'managerOf', person: { ref: 'form.colleague' }, levels: 3 } }),
      'Look up the manager 3 levels above Colleague.',
    ],
    ['find members', step('find', 'f', { lookup: { find: 'membersOf', group: { ref: 'form.group' } } }), 'Look up the members of Group.'],
    ['find a team', step('find', 'f', { lookup: { find: 'teamMembers', team: 'desk' } }), 'Look up the members of Directory and access.'],
    [
      'find reports',
      step('find', 'f', { lookup: { find: 'reportsOf', person: { ref: 'form.colleague' } } }),
      'Look up everyone whose manager is Colleague.',
    ],
    ['find nothing', step('find', 'f', {}), 'Look up nothing yet.'],
    ['work out', step('workOut', 'w', { feel: 'form.cores * 2', type: 'number' }), 'Work out form.cores * 2.'],
    ['pause, not set', step('pause', 'p', {}), 'Wait, not set how long.'],
    ['pause until', step('pause', 'p', { until: { date: { ref: 'form.from' } } }), 'Wait until First day.'],
    [
      'milestone',
      step('mark', 'm', { shows: 'milestone', words: 'Ready', noReturn: true }),
      'The milestone “Ready” is reached. From here on the requester cannot withdraw.',
    ],
    ['status', step('mark', 'm', { shows: 'status', words: 'Being packed' }), 'From here on the status is “Being packed”.'],
    ['part, not chosen', step('part', 'p', { inputs: {} }), 'Do a part, not chosen yet.'],
    [
      'choose',
      step('choose', 'c', {
        cases: [
          { id: 'a', name: 'Daily', when: daily, block: [] },
          { id: 'b', name: 'B', block: [] },
        ],
        otherwise: [],
      }),
      'Take the first case that holds: Kind of work is Day to day; not set; otherwise the last way.',
    ],
    [
      'together',
      step('together', 't', { join: 'first', branches: [{ id: 'a', name: 'A', block: [] }] }),
      'Do these side by side; go on when the first is done, and leave the others.',
    ],
    ['for each', step('forEach', 'f', { list: { ref: 'form.crew' }, atOnce: 2, body: [] }), 'For each of Crew, up to 2 at once.'],
    ['for each, in order', step('forEach', 'f', { list: { ref: 'form.crew' }, atOnce: 1, body: [] }), 'For each of Crew, one after another.'],
    [
      'repeat',
      step('repeat', 'r', { body: [], until: daily, tries: 1, pause: { length: 'PT5M', counted: 'always' } }),
      'Again every 5 minutes until Kind of work is Day to day, at most once.',
    ],
    [
      'guard',
      step('guard', 'g', { body: [], remedy: [], deadline: span('PT8H'), late: [] }),
      'Try this; if it fails or takes more than 8 working hours, do the other.',
    ],
    ['finish', finish('f', 'declined'), 'End as Declined.'],
    ['finish, not set', step('finish', 'f', {}), 'End as nothing set.'],
  ])('%s', (_, s, words) => expect(said(s)).toBe(words));
});

it('a party has the row of who does the step; compound steps have none', () => {
  const party = (s: Step) => partyWords(s, naming, catalogue);
  expect(party(gate())).toBe('The owners of Group');
  expect(party(add)).toBe('Directory');
  expect(party(tell('a', 'A'))).toBe('Requester');
  expect(party(step('workOut', 'w', { feel: '1', type: 'number' }))).toBe('The run itself');
  expect(party(step('together', 't', { join: 'all', branches: [] }))).toBe('');
});

it('a branch is headed by what leads into it', () => {
  const choose = step('choose', 'c', {
    cases: [
      { id: 'a', name: 'Every day', when: daily, block: [] },
      { id: 'b', name: 'B', block: [] },
    ],
  });
  expect(branchWords(choose, 'a', naming)).toBe('Every day: Kind of work is Day to day');
  expect(branchWords(choose, 'b', naming)).toBe('B');
  expect(branchWords(choose, 'otherwise', naming)).toBe('Otherwise');
  expect(branchWords(gate(), 'declined', naming)).toBe('When declined');
  expect(branchWords(step('forEach', 'f', { list: { ref: 'form.crew' }, body: [] }), 'body', naming)).toBe('Each of Crew');
  expect(branchWords(step('repeat', 'r', { body: [], tries: 2 }), 'body', naming)).toBe('Each time');
  expect(branchWords(step('guard', 'g', { body: [], remedy: [] }), 'remedy', naming)).toBe('If it fails');
});
