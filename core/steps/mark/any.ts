import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.record({ shows: fc.constantFrom('milestone' as const, 'status' as const), noReturn: fc.constantFrom(false, false, false, true) }).map(
    ({ shows, noReturn }) =>
      (id: string) =>
        step('mark', id, { shows, words: `Mark ${id}`, ...(noReturn && { noReturn }) }),
  );
