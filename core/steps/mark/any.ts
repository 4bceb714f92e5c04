import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .record({
      shows: fc.constantFrom('milestone' as const, 'status' as const),
      noReturn: fc.constantFrom(false, false, false, true),
      promised: fc.constantFrom(undefined, 'PT4H', 'P2D'),
    })
    .map(
      ({ shows, noReturn, promised }) =>
        (id: string) =>
          step('mark', id, { shows, words: `Mark ${id}`, ...(noReturn && { noReturn }), ...(promised && { promised }) }),
    );
