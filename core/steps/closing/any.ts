import fc from 'fast-check';
import type { AnyStep, Made } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc.record({ declined: inner, withdrawn: inner, lapsed: inner, failed: inner }, { requiredKeys: [] }).map(
    (stated): Made =>
      (id, blocks) =>
        step('closing', id, Object.fromEntries(Object.entries(stated).map(([outcome, block]) => [outcome, blocks(block)]))),
  );
