import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { finish } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.constantFrom('declined' as const, 'fulfilled' as const, 'failed' as const).map((outcome) => (id: string) => finish(id, outcome));
