import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkTable, named, planReading, readColumns, rowsThatHold, TableDefinition, type Cells } from './index.ts';

const table = {
  name: 'Sizes',
  purpose: '',
  columns: [
    { id: 'size', kind: 'text', label: 'Size', required: true },
    { id: 'memory', kind: 'number', label: 'Memory', required: true, max: 1024, unit: 'GB' },
    { id: 'daily', kind: 'money', label: 'A day costs', required: false, unit: 'EUR' },
  ],
  key: ['size'],
  from: {
    system: 'park',
    list: 'sizes',
    columns: [
      { column: 'size', of: 'id' },
      { column: 'memory', of: 'memoryGb' },
      { column: 'daily', of: 'dayEur' },
    ],
    every: 'PT5M',
  },
} satisfies TableDefinition;
const list = ['id', 'processors', 'memoryGb', 'dayEur'];
const nobody = () => undefined;
const there = (...rows: [string, Cells][]) => new Map(rows);
const small: Cells = { size: 'Small', memory: 4, daily: { amount: '0', currency: 'EUR' } };
const read = (lines: string[][], standing = there(), whole = true) => {
  const planned = planReading(table, list, { lines, whole }, standing, nobody);
  if (!planned.ok) throw new Error(planned.sentence);
  return planned.reading;
};

describe('a table that is read from a list', () => {
  it('says what the list says: new rows, changed ones, and without those that are gone', () => {
    const { plan, gone } = read(
      [
        ['Small', '1', '8', '0.00'],
        ['Large', '4', '32', '3.20'],
      ],
      there(['Small', small], ['Tiny', { size: 'Tiny', memory: 1 }]),
    );
    expect(plan.adds).toEqual([{ line: 2, key: 'Large', cells: { size: 'Large', memory: 32, daily: { amount: '3.20', currency: 'EUR' } } }]);
    expect(plan.changes).toMatchObject([{ key: 'Small', columns: expect.arrayContaining(['memory']) as string[] }]);
    expect(gone).toEqual(['Tiny']);
  });
  it('takes nothing off where a row could not be taken, or not all of the list was read: it may be that one', () => {
    const standing = there(['Small', small], ['Tiny', { size: 'Tiny', memory: 1 }]);
    const { plan, gone } = read(
      [
        ['Small', '1', '2048', '0'],
        ['Large', '4', '32', ''],
      ],
      standing,
    );
    expect(plan.refused).toMatchObject([{ line: 1 }]);
    expect(plan.adds.map((a) => a.key)).toEqual(['Large']);
    expect(gone).toEqual([]);
    expect(read([['Small', '1', '4', '0']], standing, false).gone).toEqual([]);
    expect(read([], standing).gone).toEqual(['Small', 'Tiny']);
  });
  it('whoever is not known any more leaves their cell empty where it may be, and the row is taken', () => {
    const of = (required: boolean) => ({
      ...table,
      columns: [...table.columns.slice(0, 1), { id: 'keeper', kind: 'person' as const, label: 'Keeper', required }],
      from: {
        ...table.from,
        columns: [
          { column: 'size', of: 'id' },
          { column: 'keeper', of: 'by' },
        ],
      },
    });
    const lines = [
      ['Small', 'ada@x.example'],
      ['Large', 'left@x.example'],
    ];
    const taken = (required: boolean) =>
      planReading(of(required), ['id', 'by'], { lines, whole: true }, there(['Old', { size: 'Old' }]), (_, name) =>
        name === 'ada@x.example' ? 'ada' : undefined,
      );
    expect(taken(false)).toMatchObject({
      ok: true,
      reading: {
        plan: { adds: [{ cells: { size: 'Small', keeper: { person: 'ada' } } }, { cells: { size: 'Large' } }], refused: [] },
        gone: ['Old'],
        empty: ['Row 2: Keeper: “left@x.example” is not known here; the cell is empty.'],
      },
    });
    expect(taken(true)).toMatchObject({ reading: { plan: { refused: [{ line: 2 }] }, gone: [], empty: [] } });
  });
  it('a column that the list has not any more is told, and nothing is changed', () => {
    const planned = planReading(table, ['id', 'memoryGb'], { lines: [['Small', '4']], whole: true }, there(), nobody);
    expect(planned).toEqual({ ok: false, sentence: 'The list has no column any more that “A day costs” is read from.' });
  });
  it('read once more it changes nothing', () => {
    const line = fc.tuple(
      fc.string({ minLength: 1, maxLength: 12 }),
      fc.constant('1'),
      fc.integer({ max: 2000 }).map(String),
      fc.constantFrom('', '1.5', 'x'),
    );
    fc.assert(
      fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
        const first = read(lines);
        const standing = there(...first.plan.adds.map((a): [string, Cells] => [a.key, a.cells]));
        const again = read(lines, standing);
        expect([again.plan.adds, again.plan.changes, again.gone, again.plan.same]).toEqual([[], [], [], standing.size]);
        expect(again.plan.refused).toEqual(first.plan.refused);
      }),
    );
  });
  it('reads each of its columns from somewhere: nobody types into it', () => {
    expect(checkTable(table)).toEqual([]);
    expect(checkTable({ ...table, from: { ...table.from, columns: table.from.columns.slice(0, 2) } })).toEqual([
      '“A day costs” is read from nowhere, and nobody types into a table that is read: say which column of the list it is, or take it off.',
    ]);
    expect(TableDefinition.safeParse({ ...table, from: { ...table.from, every: 'PT10S' } }).success).toBe(false);
    expect(readColumns(table, list).map((c) => c?.id)).toEqual(['size', undefined, 'memory', 'daily']);
  });
  it('a column that is named anew is read from the same place', () => {
    const next = {
      ...table,
      columns: [...table.columns, { id: 'new-1', kind: 'number' as const, label: 'Processors', required: true }],
      from: { ...table.from, columns: [...table.from.columns, { column: 'new-1', of: 'processors' }] },
      asks: { item: 'i', when: { has: { ref: 'row.new-1' } }, orBy: { person: 'p' }, again: 'P90D' },
    };
    expect(named(table, next).from?.columns.at(-1)).toEqual({ column: 'processors', of: 'processors' });
    expect(named(table, next).asks?.when).toEqual({ has: { ref: 'row.processors' } });
    expect(checkTable(named(table, next))).toEqual([]);
    expect(
      rowsThatHold(
        named(table, next).asks!.when,
        new Map([
          ['a', { processors: 2 }],
          ['b', {}],
        ]),
      ),
    ).toEqual(['a']);
  });
});
