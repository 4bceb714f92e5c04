import type { ItemDefinition } from '../core/items/index.ts';
import type { RichText } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const call = { min: 'PT1S', likely: 'PT2S', max: 'PT1M' };

/** To whoever asked, about their guest. */
const tell = (id: string, name: string, forRequester: string, subject: string, ...text: RichText) => ({
  id,
  kind: 'tell' as const,
  name,
  forRequester,
  expected: now,
  to: { ref: 'request.requester' },
  subject: [[{ text: `${subject}, ` }, { ref: 'request.number' }]],
  body: [{ text }],
});

/**
 * Somebody from elsewhere is invited, and let in only once they have accepted. Common practice, no source: whether they have is found out
 * every five minutes. Which room let them in and which did not is kept and told.
 */
export const guestFromAPartner = (house: string): ItemDefinition => ({
  name: 'Guest from a partner institute',
  summary: 'Somebody from elsewhere works with us for a while. They are invited by mail and let in once they have accepted.',
  category: 'People',
  form: {
    fields: [
      { id: 'name', kind: 'text', label: 'Their name', required: true },
      { id: 'mail', kind: 'address', label: 'Their mail address', help: 'The invitation goes there.', required: true },
      { id: 'until', kind: 'date', label: 'Until', required: true },
      {
        id: 'rooms',
        kind: 'choices',
        label: 'What they may enter',
        required: true,
        options: [
          { value: 'tide-exchange', label: 'Tide exchange' },
          { value: 'chart-reviews', label: 'Chart reviews' },
          { value: 'survey-photos', label: 'Survey photos' },
        ],
      },
      { id: 'why', kind: 'longText', label: 'What you do together', required: true },
    ],
    rules: [
      {
        id: 'ahead',
        apart: { date: { ref: 'form.until' }, days: 1, counted: 'always' },
        field: 'until',
        sentence: 'They are a guest for a day at least: choose a day that is still to come.',
      },
    ],
  },
  plan: {
    undoWhen: ['withdrawn', 'failed', 'lapsed'],
    steps: [
      {
        id: 'agree',
        kind: 'gate',
        name: 'The manager agrees',
        forRequester: 'Your manager agrees to the guest',
        expected: { min: 'PT15M', likely: 'PT4H', max: 'P3D' },
        approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
        rule: { rule: 'any' },
        ownRequest: 'manager',
        nobody: { then: 'fail' },
        deadline: 'P5D',
      },
      {
        id: 'invite',
        kind: 'provision',
        name: 'Invite the guest',
        forRequester: 'The guest is invited',
        expected: call,
        action: `web.${house}.invite`,
        inputs: {
          mail: { ref: 'form.mail' },
          name: { ref: 'form.name' },
          until: { ref: 'form.until' },
          sponsor: { ref: 'request.requester' },
        },
      },
      {
        id: 'wait',
        kind: 'guard',
        name: 'Until they have accepted',
        expected: now,
        deadline: { length: 'P7D', counted: 'always' },
        body: [
          {
            id: 'accepts',
            kind: 'repeat',
            name: 'Look whether they have accepted',
            forRequester: 'The guest accepts',
            expected: now,
            pause: { length: 'PT5M', counted: 'always' },
            deadline: { length: 'P8D', counted: 'always' },
            until: { compare: 'is', left: { ref: 'steps.look.accepted' }, right: { literal: true } },
            body: [
              {
                id: 'look',
                kind: 'provision',
                name: 'Find out whether they have accepted',
                forRequester: 'The guest accepts',
                expected: call,
                action: `web.${house}.look`,
                inputs: { id: { ref: 'steps.invite.id' } },
              },
            ],
          },
        ],
        remedy: [
          tell('cannotLook', 'Tell that it cannot be found out', 'You are told', 'Your guest', [
            { text: 'Whether ' },
            { ref: 'form.name' },
            { text: ' has accepted could not be found out; the invitation is taken back. Ask again, or ask the desk.' },
          ]),
          { id: 'failed', kind: 'finish', name: 'It could not be found out', expected: now, outcome: 'failed' },
        ],
        late: [
          tell('notAccepted', 'Tell that they have not accepted', 'You are told', 'Your guest has not accepted', [
            { ref: 'form.name' },
            { text: ' has not accepted within seven days; the invitation is taken back. Ask again once they are there to answer it.' },
          ]),
          { id: 'lapsed', kind: 'finish', name: 'They have not accepted', expected: now, outcome: 'lapsed' },
        ],
      },
      {
        id: 'each',
        kind: 'forEach',
        name: 'Each room',
        expected: now,
        list: { ref: 'form.rooms' },
        body: [
          {
            id: 'try',
            kind: 'guard',
            name: 'Let in, or say so',
            expected: now,
            body: [
              {
                id: 'letIn',
                kind: 'provision',
                name: 'Let the guest in',
                forRequester: 'The guest is let in',
                expected: call,
                action: `web.${house}.letIn`,
                inputs: { id: { ref: 'steps.invite.id' }, room: { ref: 'row.value' } },
                undo: 'none',
              },
            ],
            remedy: [
              tell('notIn', 'Tell which room did not let them in', 'You are told', 'A room did not let your guest in', [
                { ref: 'form.name' },
                { text: ' could not be let into ' },
                { ref: 'row.value' },
                { text: '. Everything else goes on; ask the desk about this one.' },
              ]),
            ],
          },
        ],
      },
      tell('ready', 'Tell that they are in', 'You are told', 'Your guest is here', [
        { ref: 'form.name' },
        { text: ' has accepted and is a guest until ' },
        { ref: 'form.until' },
        { text: '. You answer for them: under My things you can send them home before.' },
      ]),
    ],
  },
});
