import fc from 'fast-check';
import type { Condition } from '../../conditions/index.ts';
import { span, type AnyStep, type Made } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc
    .record({
      body: inner,
      tries: fc.option(fc.integer({ min: 1, max: 3 })),
      pause: fc.option(span),
      deadline: fc.option(span),
      until: fc.constantFrom<Condition>(
        { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
        { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } },
        { compare: 'more', left: { ref: 'form.machine.processors' }, right: { literal: 2 } },
      ),
    })
    .map(
      ({ body: b, tries, pause, deadline, until }): Made =>
        (id, blocks) =>
          step('repeat', id, {
            body: blocks(b),
            until,
            // Without a pause only a number of tries ends it before it is a runaway.
            ...((tries ?? (deadline && pause ? null : 2)) !== null && { tries: tries ?? 2 }),
            ...(pause && { pause }),
            ...(deadline && { deadline }),
          }),
    );
