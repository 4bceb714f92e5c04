import fc from 'fast-check';
import type { Step } from '../../plans/index.ts';
import type { AnyStep } from '../../testing/drawn.ts';
import { add } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc.record({ times: fc.integer({ min: 0, max: 3 }), undo: fc.constantFrom('directory.removeMember', 'none', undefined), note: fc.boolean() }).map(
    ({ times, undo, note }) =>
      (id) =>
        ({
          ...add,
          id,
          name: `Provision ${id}`,
          ...(undo && { undo }),
          ...(note && { note: { to: { ref: 'request.requester' }, openFor: 'P3D' } }),
          ...(times > 0 && { retries: { times, firstPauseSeconds: 1, factor: 2 } }),
        }) as Step,
  );
