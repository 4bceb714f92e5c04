import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.record({ reminders: fc.boolean(), to: fc.boolean() }).map(
    ({ reminders, to }) =>
      (id) =>
        step('askBack', id, {
          question: [[{ text: 'Which, for ' }, { ref: 'request.number' }, { text: '?' }]],
          fields: [{ id: 'answer', kind: 'text', label: 'Answer', required: true }],
          ...(reminders && { reminders: { after: 'PT4H', times: 2 } }),
          ...(to && { to: { ref: 'request.requester' } }),
        }),
  );
