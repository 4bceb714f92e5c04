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
      ),
      due: fc.constantFrom(undefined, { within: 'PT4H' }, { by: { ref: 'form.from' } }, { by: { ref: 'form.from' }, workingDaysBefore: 2 }),
      tellTeam: fc.boolean(),
      field: fc.constantFrom(undefined, 'note', 'entries', 'length'),
      check: fc.boolean(),
      instructions: body,
    })
    .map(
      ({ assignee, due, field, check, instructions, tellTeam }) =>
        (id) =>
          step('task', id, {
            assignee,
            instructions,
            checklist: check ? [{ id: 'first', words: 'Look at it' }] : [],
            fields: field ? [{ id: field, kind: 'text', label: `Field ${field}`, required: true }] : [],
            ...(due && { due }),
            ...(tellTeam && { tellTeam: true }),
          }),
    );
