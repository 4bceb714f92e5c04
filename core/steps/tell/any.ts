import fc from 'fast-check';
import type { Step } from '../../plans/index.ts';
import { body, type AnyStep } from '../../testing/drawn.ts';
import { tell } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .record({
      body,
      by: fc.constantFrom(undefined, 'mail' as const, 'chat' as const),
      attaches: fc.constantFrom(undefined, [{ ref: 'form.sketch' }]),
      to: fc.constantFrom('request.requester', 'request.for', 'form.crew'),
    })
    .map(
      ({ body: b, by, to, attaches }) =>
        (id) =>
          ({ ...tell(id, `Tell ${id}`), to: { ref: to }, body: b, ...(by && { by }), ...(attaches && { attaches }) }) as Step,
    );
