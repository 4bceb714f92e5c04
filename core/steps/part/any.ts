import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.tuple(fc.constantFrom('plain', 'giving'), fc.constantFrom('request.requester', 'form.machine.keeper')).map(
    ([part, ref]) =>
      (id: string) =>
        step('part', id, { part, inputs: { who: { ref } } }),
  );
