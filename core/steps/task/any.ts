import fc from 'fast-check';
import { body, type AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .record({
      assignee: fc.constantFrom(
        { team: 'desk' },
        { person: { person: 'ada' } },
        { from: { ref: 'request.requester' } },
        { from: { ref: 'form.by' } },
        { routed: 'whoGets' },
        { routed: 'whoGets', place: { ref: 'form.place' } },
      ),
      due: fc.constantFrom(undefined, { within: 'PT4H' }, { by: { ref: 'form.from' } }, { by: { ref: 'form.from' }, workingDaysBefore: 2 }),
      tellTeam: fc.boolean(),
      late: fc.option(
        fc.record(
          {
            reminders: fc.record({ after: fc.constantFrom('PT2H', 'P1D'), times: fc.constantFrom(1, 3) }),
            raise: fc.record({
              after: fc.constantFrom('PT0S', 'PT4H'),
              to: fc.constantFrom({ team: 'desk' }, { person: { person: 'ada' } }, { from: { ref: 'request.requester' } }),
              how: fc.constantFrom('tell' as const, 'handOver' as const),
            }),
          },
          { requiredKeys: [] },
        ),
        { nil: undefined },
      ),
      field: fc.constantFrom(undefined, 'note', 'entries', 'length'),
      check: fc.boolean(),
      corrects: fc.constantFrom<string[]>([], [], ['cores'], ['kind', 'colleague']),
      instructions: body,
    })
    .map(
      ({ assignee, due, field, check, instructions, tellTeam, late, corrects }) =>
        (id) =>
          step('task', id, {
            assignee,
            instructions,
            checklist: check ? [{ id: 'first', words: 'Look at it' }] : [],
            fields: field ? [{ id: field, kind: 'text', label: `Field ${field}`, required: true }] : [],
            ...(corrects.length > 0 && { corrects }),
            ...(due && { due }),
            ...(late && due && { late }),
            ...(tellTeam && { tellTeam: true }),
          }),
    );
