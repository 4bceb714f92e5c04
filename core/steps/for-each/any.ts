import fc from 'fast-check';
import { type AnyStep, type Made } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc
    .record({ body: inner, atOnce: fc.constantFrom(undefined, 1, 2), list: fc.constantFrom('form.crew', 'form.kit', 'form.gear', 'form.sketch') })
    .map(
      ({ body: b, atOnce, list }): Made =>
        (id, blocks) =>
          step('forEach', id, { list: { ref: list }, ...(atOnce && { atOnce }), body: blocks(b) }),
    );
