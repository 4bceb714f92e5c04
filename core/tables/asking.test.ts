import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Condition } from '../conditions/index.ts';
import { validateAnswers, type Field } from '../forms/index.ts';
import { askingNamed, checkAsking, fieldForRow, rowsThatHold, type RowAsking } from './asking.ts';
import type { TableDefinition } from './index.ts';

const columns: TableDefinition['columns'] = [
  { id: 'space', kind: 'text', label: 'Space', required: true },
  { id: 'idle', kind: 'number', label: 'Days without use', required: true },
  { id: 'owner', kind: 'person', label: 'First owner', required: false },
  {
    id: 'seen',
    kind: 'choice',
    label: 'Who reads it',
    required: true,
    options: [
      { value: 'members', label: 'Members' },
      { value: 'everyone', label: 'Everyone' },
    ],
  },
  { id: 'open', kind: 'yesNo', label: 'Is open', required: false },
];
const asks = (when: Condition, by?: string): RowAsking => ({ item: 'i', when, orBy: { person: 'p' }, again: 'P90D', ...(by && { by }) });
const check = (when: Condition, by?: string) => checkAsking({ columns, from: {}, asks: asks(when, by) });
const row = (id: string) => ({ ref: `row.${id}` });

describe('what follows a row', () => {
  it('compares what stands in its columns with values of their kinds, and is of a table that is read', () => {
    expect(check({ compare: 'atLeast', left: row('idle'), right: { literal: 90 } }, 'owner')).toEqual([]);
    expect(check({ compare: 'is', left: row('seen'), right: { literal: 'everyone' } })).toEqual([]);
    expect(check({ compare: 'atLeast', left: row('idle'), right: { literal: 'ninety' } })).toEqual([
      'What follows a row compares “Days without use”, a number, with something that is none. Compare it with a value of its own kind.',
    ]);
    expect(check({ any: [{ has: row('open') }, { compare: 'is', left: row('seen'), right: { literal: 'nobody' } }] })).toEqual([
      'What follows a row compares “Who reads it” with a choice that it does not offer. Compare it with a value of its own kind.',
    ]);
    expect(check({ compare: 'more', left: row('owner'), right: row('idle') })).toEqual([
      'What follows a row asks whether “First owner” is more or less than something; a person has no order. Compare it with a value of its own kind.',
    ]);
    expect(check({ has: row('gone') }, 'idle')).toEqual([
      'What follows a row reads a column that is not there any more.',
      'Who asks is named by a column that is no person.',
    ]);
    expect(checkAsking({ columns, asks: asks({ has: row('idle') }) })).toHaveLength(1);
    expect(checkAsking({ columns, from: {} })).toEqual([]);
  });

  it('is the same where its columns are called otherwise', () => {
    const value = fc.record({ idle: fc.integer({ min: 0, max: 200 }), open: fc.constantFrom(true, false, null), space: fc.constantFrom('a', 'b') });
    const leaf: fc.Arbitrary<Condition> = fc.oneof(
      fc.record({
        compare: fc.constantFrom('is' as const, 'isNot' as const, 'less' as const, 'atLeast' as const),
        left: fc.constant(row('idle')),
        right: fc.integer({ min: 0, max: 200 }).map((literal) => ({ literal })),
      }),
      fc.record({ compare: fc.constant('is' as const), left: fc.constant(row('open')), right: fc.boolean().map((literal) => ({ literal })) }),
      fc.constantFrom<Condition>({ has: row('open') }, { has: row('space') }),
    );
    const { when } = fc.letrec<{ when: Condition }>((tie) => ({
      when: fc.oneof(
        { maxDepth: 3 },
        leaf,
        fc.array(tie('when'), { minLength: 1, maxLength: 3 }).map((all) => ({ all })),
        fc.array(tie('when'), { minLength: 1, maxLength: 3 }).map((any) => ({ any })),
        tie('when').map((not) => ({ not })),
      ),
    }));
    const ids = new Map([
      ['idle', 'unused'],
      ['open', 'isOpen'],
    ]);
    fc.assert(
      fc.property(when, fc.array(value, { maxLength: 6 }), (condition, values) => {
        const rows = new Map(values.map((v, n) => [String(n), v]));
        const renamed = new Map(values.map(({ idle, open, space }, n) => [String(n), { unused: idle, isOpen: open, space }]));
        const held = rowsThatHold(condition, rows);
        expect(rowsThatHold(askingNamed(asks(condition), ids).when, renamed)).toEqual(held);
        // What does not hold of a row, its opposite holds of.
        expect([...held, ...rowsThatHold({ not: condition }, rows)].sort()).toEqual([...rows.keys()].sort());
      }),
    );
  });
});

describe('an item that takes a row', () => {
  it('asks nothing else that nobody would be there to answer: with the row alone its answers can be sent', () => {
    const kind = fc.constantFrom<Pick<Field, 'kind'> & Partial<Field>>(
      { kind: 'row', table: 't' },
      { kind: 'row', table: 'u' },
      { kind: 'text' },
      { kind: 'number', default: 3 },
      { kind: 'text', held: 'locked', default: 'x' },
      { kind: 'text', visibleWhen: { has: { ref: 'form.f0' } } },
    );
    const field = fc.tuple(kind, fc.boolean());
    fc.assert(
      fc.property(fc.array(field, { minLength: 1, maxLength: 5 }), (drawn) => {
        const fields = drawn.map(([of, required], n) => ({ id: `f${n}`, label: `F${n}`, required, ...of }) as Field);
        const takes = fieldForRow({ fields }, 't');
        if (takes === undefined) return;
        expect(fields.filter((f) => f.table === 't' && !f.visibleWhen && !f.held).map((f) => f.id)).toEqual([takes]);
        const defaults = Object.fromEntries(fields.flatMap((f) => (f.default === undefined ? [] : [[f.id, f.default]])));
        const sent = validateAnswers({ fields }, { ...defaults, [takes]: { table: 't', key: 'k' } });
        const left = sent.ok ? [] : sent.problems.map((p) => p.field);
        // What is shown only sometimes, and required then, is not looked at: the asking says why it was refused.
        expect(left.filter((id) => !fields.find((f) => f.id === id)?.visibleWhen)).toEqual([]);
      }),
    );
  });
});
