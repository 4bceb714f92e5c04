import fc from 'fast-check';
import { type AnyStep, type Made } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc.record({ side: fc.array(inner, { minLength: 2, maxLength: 3 }), join: fc.constantFrom('all' as const, 'first' as const) }).map(
    ({ side, join }): Made =>
      (id, blocks) =>
        step('together', id, { join, branches: side.map((b, i) => ({ id: `b${i}`, name: `Branch ${i}`, block: blocks(b) })) }),
  );
