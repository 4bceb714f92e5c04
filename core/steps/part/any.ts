import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.constantFrom('plain', 'giving').map((part) => (id: string) => step('part', id, { part, inputs: { who: { ref: 'request.requester' } } }));
