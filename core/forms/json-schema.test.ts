import Ajv from 'ajv/dist/2020.js';
import { DateTime } from 'luxon';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Condition } from '../conditions/index.ts';
import { wideForm } from '../testing/samples.ts';
import { fieldType, formJsonSchema, validateAnswers, type Answers, type Field, type Form } from './index.ts';
import { plainOf, type Single, type Value } from '../values/index.ts';
import { anyValue } from '../testing/any-value.ts';

const ajv = new Ajv({ strict: false, allErrors: true });
ajv.addFormat('date', (text: string) => DateTime.fromISO(text).isValid && /^\d{4}-\d\d-\d\d$/.test(text));
ajv.addFormat('email', true);
const plain = (answers: Answers) => Object.fromEntries(Object.entries(answers).map(([id, v]) => [id, plainOf(v)]));

const lit = (literal: Value) => ({ literal });
const at = (id: string) => ({ ref: `form.${id}` });
/** Fields of every kind whose schema says the same as the form, some shown and required under conditions. */
const form: Form = {
  fields: [
    { id: 'kind', kind: 'choice', label: 'Kind', required: false, options: ['daily', 'project'].map((value) => ({ value, label: value })) },
    { id: 'many', kind: 'number', label: 'How many', required: true, min: 1, max: 8 },
    { id: 'far', kind: 'yesNo', label: 'Far', required: false },
    { id: 'name', kind: 'text', label: 'Name', required: true, visibleWhen: { compare: 'is', left: at('kind'), right: lit('project') } },
    { id: 'code', kind: 'text', label: 'Code', required: false, shape: { pieces: [{ exactly: 'SK-' }, { of: 'digits', least: 1, most: 3 }] } },
    { id: 'when', kind: 'date', label: 'When', required: false, requiredWhen: { compare: 'is', left: at('far'), right: lit(true) } },
    { id: 'hour', kind: 'time', label: 'Hour', required: false, visibleWhen: { has: at('when') } },
    { id: 'who', kind: 'person', label: 'Who', required: false, requiredWhen: { compare: 'more', left: at('many'), right: lit(4) } },
    { id: 'crew', kind: 'people', label: 'Crew', required: false, min: 2, max: 3 },
    { id: 'kit', kind: 'choices', label: 'Kit', required: false, options: ['daily', 'project'].map((value) => ({ value, label: value })) },
    { id: 'machine', kind: 'row', label: 'Machine', required: false, table: 'm' },
    {
      id: 'place',
      kind: 'location',
      label: 'Place',
      required: false,
      visibleWhen: { not: { compare: 'is', left: at('kind'), right: lit('daily') } },
    },
  ],
  rules: [
    {
      id: 'r1',
      holds: { any: [{ compare: 'less', left: at('many'), right: lit(7) }, { has: at('who') }] },
      field: 'many',
      sentence: 'Too many alone.',
    },
    {
      id: 'r2',
      holds: { not: { all: [{ compare: 'is', left: at('far'), right: lit(true) }, { has: at('place') }] } },
      field: 'place',
      sentence: 'Not there.',
    },
  ],
};
/** An answer to a field: good, of another kind, or none. */
function anyAnswer(f: Field): fc.Arbitrary<Value | undefined> {
  const good: Record<string, fc.Arbitrary<Value>> = {
    number: fc.integer({ min: 0, max: 9 }),
    choices: fc.array(fc.constantFrom('daily', 'project', 'other'), { maxLength: 2 }),
    people: fc.array(anyValue.person as fc.Arbitrary<Single>, { maxLength: 4 }),
    text: fc.constantFrom('SK-12', 'SK-', 'Tide', ' ', ''),
    row: fc.constantFrom('m', 'n').map((table) => ({ table, key: 'Large' })),
  };
  const own = good[f.kind] ?? (anyValue[fieldType(f.kind) as keyof typeof anyValue] as fc.Arbitrary<Value>);
  return fc.oneof({ weight: 6, arbitrary: own }, { weight: 2, arbitrary: fc.constant(null) }, { weight: 1, arbitrary: fc.constant(undefined) });
}
const anyAnswers = (of: Form): fc.Arbitrary<Answers> =>
  fc
    .tuple(...of.fields.map(anyAnswer))
    .map((values) => Object.fromEntries(values.flatMap((v, i) => (v === undefined ? [] : [[of.fields[i]!.id, v] as const]))));

describe('the JSON Schema of a form', () => {
  it('takes and refuses what the form does (ajv, an independent validator, on generated answers)', () => {
    const valid = ajv.compile(formJsonSchema(form, 'Tried'));
    const seen = { taken: 0, refused: 0 };
    fc.assert(
      fc.property(anyAnswers(form), (answers) => {
        const held = validateAnswers(form, answers);
        seen[held.ok ? 'taken' : 'refused']++;
        expect(valid(plain(answers)), JSON.stringify([answers, held, valid.errors])).toBe(held.ok);
      }),
      { numRuns: 3000 },
    );
    expect(Math.min(seen.taken, seen.refused)).toBeGreaterThan(50);
  });

  it('does so under any condition that it can say', () => {
    const anyCondition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
      c: fc.oneof(
        { maxDepth: 3 },
        fc.constantFrom<Condition>(
          { has: at('kind') },
          { has: at('name') },
          { compare: 'is', left: at('kind'), right: lit('daily') },
          { compare: 'isNot', left: at('kind'), right: lit('project') },
          { compare: 'is', left: at('far'), right: lit(null) },
          { compare: 'atMost', left: at('many'), right: lit(3) },
          { compare: 'atLeast', left: at('many'), right: lit(5) },
        ),
        fc.array(tie('c'), { minLength: 1, maxLength: 3 }).map((all) => ({ all })),
        fc.array(tie('c'), { minLength: 1, maxLength: 3 }).map((any) => ({ any })),
        tie('c').map((not) => ({ not })),
      ),
    })).c;
    const asked = form.fields.slice(0, 5);
    fc.assert(
      fc.property(anyCondition, anyCondition, fc.array(anyAnswers({ fields: asked }), { minLength: 5, maxLength: 5 }), (shown, holds, all) => {
        const under: Form = {
          fields: [...asked, { id: 'last', kind: 'text', label: 'Last', required: true, visibleWhen: shown }],
          rules: [{ id: 'r', holds, field: 'many', sentence: 'Not so.' }],
        };
        const schema = formJsonSchema(under, 'Tried');
        expect(schema['$comment']).toBeUndefined();
        const valid = ajv.compile(schema);
        for (const answers of all) expect(valid(plain(answers)), JSON.stringify([answers, under])).toBe(validateAnswers(under, answers).ok);
      }),
      { numRuns: 150 },
    );
  });

  it('says what it cannot say, and is itself a schema (ajv against the meta-schema)', () => {
    const schema = formJsonSchema(
      {
        fields: [...wideForm.fields, { id: 'only', kind: 'text', label: 'Only', required: false, unique: { among: 'open' } }],
        rules: wideForm.rules,
      },
      'Wide',
    );
    expect(ajv.validateSchema(schema)).toBe(true);
    expect(schema['$comment']).toContain('“Only” must be the only one.');
    expect((schema['properties'] as Record<string, object>)['account']).toEqual({ title: 'Counted for', readOnly: true });
  });
});
