import fc from 'fast-check';
import { condition, type AnyStep, type Made } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc
    .record({
      cases: fc.array(fc.record({ when: condition, block: inner, share: fc.constantFrom(undefined, 30) }), { minLength: 1, maxLength: 3 }),
      otherwise: fc.option(inner),
    })
    .map(
      ({ cases, otherwise }): Made =>
        (id, blocks) =>
          step('choose', id, {
            cases: cases.map((c, i) => ({
              id: `case${i}`,
              name: `Case ${i}`,
              when: c.when,
              ...(c.share && { share: c.share }),
              block: blocks(c.block),
            })),
            ...(otherwise && { otherwise: blocks(otherwise) }),
          }),
    );
