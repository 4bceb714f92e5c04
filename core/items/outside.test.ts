import { describe, expect, it } from 'vitest';
import type { Field } from '../forms/index.ts';
import { sentence } from '../values/index.ts';
import { step } from '../testing/samples.ts';
import { checkOutside } from './outside.ts';

const field = (f: Partial<Field> & Pick<Field, 'kind'>): Field => ({ id: 'f', label: 'Field', required: true, ...f });
const found = (fields: Field[], steps: Parameters<typeof checkOutside>[0]['plan']['steps'] = []) =>
  checkOutside({ outsiders: true, form: { fields }, plan: { steps } }).map((f) => f.field ?? f.step);

describe('what people from outside cannot answer', () => {
  it.each(['person', 'people', 'group', 'team', 'location', 'row', 'file', 'files'] as const)('%s stops an item that is offered to them', (kind) => {
    expect(found([field({ kind })])).toEqual(['f']);
    // What is filled in by the form, or asked of people here, stops nothing.
    expect(found([field({ kind, held: 'hidden' })])).toEqual([]);
    expect(checkOutside({ form: { fields: [field({ kind })] }, plan: { steps: [] } })).toEqual([]);
  });

  it.each(['text', 'longText', 'number', 'date', 'time', 'yesNo', 'choice', 'choices', 'address', 'phone', 'money'] as const)(
    '%s is theirs to answer',
    (kind) => {
      expect(found([field({ kind })])).toEqual([]);
    },
  );

  it('stands in the columns of a list, and in what is asked back of them', () => {
    const columns = [{ id: 'c', kind: 'person' as const, label: 'Who', required: true }];
    expect(found([field({ kind: 'lines', columns })])).toEqual(['f']);
    expect(found([field({ kind: 'lines', columns: [{ ...columns[0]!, kind: 'text' }] })])).toEqual([]);
    const asks = (to?: { ref: string }) => step('askBack', 'who', { question: sentence('Who was it?'), fields: [field({ kind: 'person' })], to });
    expect(found([], [asks()])).toEqual(['who']);
    expect(found([], [asks({ ref: 'form.mentor' })])).toEqual([]);
  });
});
