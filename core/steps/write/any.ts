import fc from 'fast-check';
import type { LetterTable, Step } from '../../plans/index.ts';
import { body, type AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';
import { sentence } from '../../values/index.ts';

const table = fc.constantFrom<LetterTable | undefined>(
  undefined,
  { list: { ref: 'form.crew' }, columns: [] },
  {
    list: { ref: 'form.gear' },
    columns: [
      { id: 'many', head: 'How many' },
      { id: 'state', head: '' },
    ],
  },
);

export const any: AnyStep = () =>
  fc
    .record({
      body,
      table,
      numbered: fc.boolean(),
      head: fc.constantFrom(undefined, sentence('Skerrin'), [[{ text: 'About ' }, { ref: 'request.number' }]]),
      fileName: fc.constantFrom(sentence('Letter'), [[{ text: 'Letter ' }, { ref: 'request.number' }]], [[{ ref: 'form.reason' }]]),
    })
    .map(
      ({ body: b, table: t, numbered, head, fileName }) =>
        (id) =>
          step('write', id, {
            fileName,
            title: sentence(`Title of ${id}`),
            body: b.map((p, at) => (at === 0 && t ? { ...p, table: t } : p)),
            numbered,
            ...(head && { head }),
          }) as Step,
    );
