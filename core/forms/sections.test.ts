import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wideForm } from '../testing/samples.ts';
import { arranged, elementName, elementsOf, moved, sectionsOf, withoutField, type Form } from './index.ts';

const names = (form: Form) => elementsOf(form).map(elementName);

describe('sections', () => {
  it('stand where they are put, whatever is moved, and nothing is lost', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(40), fc.nat(40)), { maxLength: 12 }), (moves) => {
        let form: Form = wideForm;
        for (const [which, to] of moves) {
          const before = names(form);
          const name = before[which % before.length]!;
          const at = to % before.length;
          form = moved(form, name, at);
          expect(names(form)).toEqual(before.filter((n) => n !== name).toSpliced(at, 0, name));
        }
        expect(names(form).toSorted()).toEqual(names(wideForm).toSorted());
        expect(arranged(form, elementsOf(form))).toEqual(form);
      }),
    );
  });

  it('stand before the next field where theirs is taken out', () => {
    const at = names(wideForm).indexOf('section work');
    const next = withoutField(wideForm, 'crew');
    expect(names(next)).toEqual(names(wideForm).filter((n) => n !== 'field crew'));
    expect(names(next)[at]).toBe('section work');
  });

  it('are out of sight with all their fields; a note without fields stands', () => {
    const fields = wideForm.fields.filter((f) => ['group', 'crew'].includes(f.id));
    const form: Form = { fields, sections: wideForm.sections };
    const ids = (shown: typeof fields) => sectionsOf(form, shown).map((s) => [s.section?.id, s.fields.map((f) => f.id)]);
    expect(ids(fields)).toEqual([
      [undefined, ['group']],
      ['work', ['crew']],
      ['last', []],
    ]);
    expect(ids([fields[0]!])).toEqual([
      [undefined, ['group']],
      ['last', []],
    ]);
  });
});
