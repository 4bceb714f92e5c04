import fc from 'fast-check';
import type { Invite } from '../../plans/index.ts';
import { body, type AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';
import { sentence, type RichText } from '../../values/index.ts';

export const any: AnyStep = () =>
  fc
    .record(
      {
        body,
        who: fc.constantFrom<Invite['who'][]>([{ ref: 'request.requester' }], [{ ref: 'request.for' }, { ref: 'form.crew' }]),
        minutes: fc.constantFrom(15, 30, 90),
        within: fc.constantFrom(1, 5),
        from: fc.constantFrom({ ref: 'form.from' }, { ref: 'request.now' }),
        notice: fc.constantFrom('PT4H', 'P1D'),
        place: fc.constantFrom<RichText[]>(sentence('Chart Hall'), [[{ text: 'At ' }, { ref: 'form.place' }]]),
        waits: fc.record({ again: fc.integer({ min: 0, max: 2 }) }),
      },
      { requiredKeys: ['body', 'who', 'minutes', 'within'] },
    )
    .map((drawn) => (id) => step('invite', id, { title: sentence(`Meeting ${id}`), ...drawn }));
