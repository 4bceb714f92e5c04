import type { ItemDefinition } from '../core/items/index.ts';

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Somebody who is signed in wants a new password for their mail and files: a robot sets it, a sealed note tells it. */
export const resetPassword = (robots: string): ItemDefinition => ({
  name: 'Reset my password',
  summary: 'A new password for mail and files, set by a robot in a minute or two. You read it once, in a sealed note.',
  category: 'Access',
  promise: 'PT1H',
  form: {
    fields: [
      {
        id: 'account',
        kind: 'address',
        label: 'Account',
        help: 'Your own; nobody else’s can be reset here.',
        required: true,
        held: 'locked',
        prefill: { ofAsker: 'mail' },
      },
      {
        id: 'why',
        kind: 'choice',
        label: 'Why',
        required: true,
        default: 'forgotten',
        options: [
          { value: 'forgotten', label: 'I have forgotten it' },
          { value: 'seen', label: 'Somebody may have seen it' },
        ],
      },
    ],
  },
  plan: {
    steps: [
      {
        id: 'reset',
        kind: 'provision',
        name: 'The robot sets a new password',
        forRequester: 'A new password is set',
        expected: { min: 'PT1M', likely: 'PT2M', max: 'PT30M' },
        action: `web.${robots}.resetPassword`,
        inputs: { account: { ref: 'form.account' } },
        note: { to: { ref: 'request.requester' }, openFor: 'P1D' },
      },
      {
        id: 'tellSet',
        kind: 'tell',
        name: 'Tell that it is set',
        expected: now,
        to: { ref: 'request.requester' },
        subject: [[{ text: 'Your password is new, ' }, { ref: 'request.number' }]],
        body: [
          {
            text: [
              [{ text: 'The password of ' }, { ref: 'form.account' }, { text: ' was set anew; the one before does not work any more.' }],
              [{ text: 'It stands in a sealed note that opens once. If you did not ask for this, say so to the desk at once.' }],
            ],
          },
        ],
      },
    ],
  },
});
