import fc from 'fast-check';
import type { Step } from '../../plans/index.ts';
import type { AnyStep } from '../../testing/drawn.ts';
import { add } from '../../testing/samples.ts';

/** What it does: puts somebody into a group, or does something to a holding that there is not, which the system is not asked for. */
const doing = fc.oneof(
  { weight: 9, arbitrary: fc.constant({}) },
  {
    weight: 1,
    arbitrary: fc.constant({ action: 'directory.keepMember', inputs: { holding: { literal: { holding: 'none' } }, until: { ref: 'form.from' } } }),
  },
);

export const any: AnyStep = () =>
  fc
    .record({
      times: fc.integer({ min: 0, max: 3 }),
      undo: fc.constantFrom('directory.removeMember', 'none', undefined),
      note: fc.boolean(),
      mirrors: fc.boolean(),
      doing,
    })
    .map(
      ({ times, undo, note, mirrors, doing }) =>
        (id) =>
          ({
            ...add,
            ...doing,
            id,
            name: `Provision ${id}`,
            ...(undo && { undo }),
            ...(mirrors && { mirrors }),
            ...(note && { note: { to: { ref: 'request.requester' }, openFor: 'P3D' } }),
            ...(times > 0 && { retries: { times, firstPauseSeconds: 1, factor: 2 } }),
          }) as Step,
    );
