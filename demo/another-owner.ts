import type { ItemDefinition } from '../core/items/index.ts';
import { sentence } from '../core/values/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Whoever owns a project space names somebody who owns it too; who is to, has to agree. Who owns it no more gives it back under “My things”. */
export const anotherOwner = (spaces: string): ItemDefinition => ({
  name: 'Another owner for a project space',
  summary: 'Name somebody who answers for a space that you own, with you or after you.',
  category: 'Access',
  alsoCalled: 'owner, hand over, workspace',
  form: {
    fields: [
      {
        id: 'owned',
        kind: 'holding',
        label: 'Your space',
        help: 'To own it no longer, name another owner first and then give it back under My things: it keeps two.',
        required: true,
        gave: `web.${spaces}.addOwner`,
      },
      { id: 'space', kind: 'text', label: 'Its name', required: true, held: 'locked', prefill: { holding: 'owned', slot: 'space' } },
      { id: 'who', kind: 'person', label: 'Who is to own it', required: true },
      { id: 'reason', kind: 'longText', label: 'Why', help: 'They read this when they decide.', required: true },
    ],
  },
  plan: {
    undoWhen: ['withdrawn', 'failed'],
    steps: [
      {
        id: 'theirWord',
        kind: 'gate',
        name: 'Who is to own it agrees',
        forRequester: 'Who is to own it agrees',
        expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
        approvers: { from: 'person', person: { ref: 'form.who' } },
        rule: { rule: 'any' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
        reminders: { after: 'P1D', times: 2 },
        deadline: 'P5D',
      },
      {
        id: 'own',
        kind: 'provision',
        name: 'Make them an owner',
        forRequester: 'They become an owner',
        expected: now,
        action: `web.${spaces}.addOwner`,
        inputs: { space: { ref: 'form.space' }, owner: { ref: 'form.who' } },
        retries: { times: 3, firstPauseSeconds: 30, factor: 4 },
      },
      {
        id: 'tellDone',
        kind: 'tell',
        name: 'Tell that they own it',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ ref: 'form.who' }, { text: ' owns ' }, { ref: 'form.space' }, { text: ' now, ' }, { ref: 'request.number' }]],
        body: [{ text: sentence('They let others in as you do. If you are to own it no longer, give it back under My things.') }],
      },
    ],
  },
});
