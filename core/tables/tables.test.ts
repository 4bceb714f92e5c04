import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import type { Column } from '../forms/index.ts';
import { anyValue } from '../testing/any-value.ts';
import { isEmpty, sameValue, type Value } from '../values/index.ts';
import {
  blankTable,
  checkTable,
  keyOf,
  keyWords,
  namedInKey,
  named,
  namesIn,
  planImport,
  previewOf,
  readCell,
  readHead,
  readRow,
  rowWords,
  settled,
  TableDefinition,
  writtenCell,
  type Cells,
} from './index.ts';

const table: TableDefinition = {
  name: 'Who covers what',
  purpose: '',
  columns: [
    { id: 'place', kind: 'location', label: 'Place', required: true },
    {
      id: 'kind',
      kind: 'choice',
      label: 'Kind of work',
      required: true,
      options: [
        { value: 'net', label: 'Network' },
        { value: 'desk', label: 'Desk side' },
      ],
    },
    { id: 'who', kind: 'person', label: 'Technician', required: true },
    { id: 'hours', kind: 'number', label: 'Hours a week', required: false, min: 0, max: 40 },
    { id: 'budget', kind: 'money', label: 'Budget', required: false },
    { id: 'since', kind: 'date', label: 'Since', required: false },
    { id: 'nights', kind: 'yesNo', label: 'Nights', required: false },
    { id: 'note', kind: 'text', label: 'Note', required: false },
  ],
  key: ['place', 'kind'],
};
const quay = { location: 'l1' };
const row: Cells = { place: quay, kind: 'net', who: { person: 'p1' } };
const ids: Record<string, string> = { 'location quay house': 'l1', 'location stores': 'l2', 'person ada strand': 'p1' };
const idOf = (kind: string, name: string) => ids[`${kind} ${name}`];
const said: Record<string, string> = { 'location l1': 'Quay House', 'location l2': 'Stores', 'person p1': 'Ada Strand' };
const names = (kind: string, id: string) => said[`${kind} ${id}`];

describe('a reference table', () => {
  it('begins with one column that is its key, and nothing is wrong with it', () => {
    expect(TableDefinition.parse(blankTable('Sizes'))).toEqual(blankTable('Sizes'));
    expect([checkTable(blankTable('Sizes')), checkTable(table)]).toEqual([[], []]);
  });

  it.each<[string, Partial<TableDefinition>, RegExp]>([
    ['no key', { key: [] }, /Nothing tells its rows apart/],
    ['a key that is gone', { key: ['place', 'gone'] }, /names a column that is not there/],
    ['a sum as key', { key: ['budget'] }, /“Budget” cannot be part of the key/],
    ['a key that may be empty', { key: ['note'] }, /“Note” is part of the key, so every row must have it/],
    ['two of one name', { columns: [...table.columns, { id: 'n', kind: 'text', label: ' note ', required: false }] }, /Two columns are called/],
    ['no name', { columns: [...table.columns, { id: 'n', kind: 'text', label: ' ', required: false }] }, /Column 9 has no name/],
    ['bounds the wrong way round', { columns: table.columns.map((c) => (c.id === 'hours' ? { ...c, min: 9, max: 1 } : c)) }, /takes nothing/],
    ['a first day that is no date', { validity: { from: 'hours' } }, /is no date, so it cannot be the first day/],
    ['a last day that is gone', { validity: { until: 'gone' } }, /column of the last day .* is not there any more/],
    ['a choice of one', { columns: table.columns.map((c) => (c.id === 'kind' ? { ...c, options: c.options!.slice(1) } : c)) }, /fewer than two/],
  ])('with %s cannot be kept, and says why', (_, change, sentence) => {
    expect(checkTable({ ...table, ...change }).join(' ')).toMatch(sentence);
  });

  it('has no column that is called as a part of a value, or as what every row of a list has', () => {
    for (const id of ['amount', 'currency', 'value', 'number', 'constructor'])
      expect(TableDefinition.safeParse({ ...table, columns: [...table.columns, { id, kind: 'text', label: 'X', required: false }] }).success).toBe(
        false,
      );
  });
});

describe('a table that is changed', () => {
  it('names new columns for their labels, never as one that was there or means something else', () => {
    const before = settled(table, { ...table, columns: table.columns.filter((c) => c.id !== 'note') });
    expect([before.retired, before.wereCalled]).toEqual([['note'], [{ id: 'note', name: 'Note' }]]);
    const added = ['Note', 'Amount', 'Value', 'Cost per day', 'Cost per day?'].map((label, i) => ({
      id: `new${i}`,
      kind: 'text' as const,
      label,
      required: true,
    }));
    const after = named(before, { ...before, columns: [...before.columns, ...added], key: ['place', 'new3'] });
    expect(after.columns.slice(-5).map((c) => c.id)).toEqual(['note2', 'amount2', 'value2', 'costPerDay', 'costPerDay2']);
    expect([after.key, TableDefinition.safeParse(after).success]).toEqual([['place', 'costPerDay'], true]);
    expect([named(after, after), settled(before, after).retired]).toEqual([after, ['note']]);
  });
});

describe('a row', () => {
  it('is known by its key, said by it, and kept with every column there is', () => {
    const read = readRow(table, { ...row, note: '  ', gone: 7 });
    expect(read).toEqual({ ok: true, key: 'l1|net', cells: { ...row, hours: null, budget: null, since: null, nights: null, note: null } });
    expect(rowWords(table, row, names)).toBe('Quay House, Network');
  });

  it('is refused at every cell that is wrong', () => {
    const read = readRow(table, { place: quay, kind: 'other', hours: 41, who: { person: 'p9' } }, (kind) => kind !== 'person');
    expect(read.ok || read.problems).toEqual([
      { column: 'kind', sentence: 'Kind of work: pick one of the choices.' },
      { column: 'who', sentence: 'Technician: this person is not known. Pick one from the list.' },
      { column: 'hours', sentence: 'Hours a week: at most 40.' },
    ]);
    const odd = readRow(table, { ...row, note: 'a\u0000b', hours: [1], nights: { entry: {} } });
    expect(odd.ok || odd.problems.map((p) => p.sentence)).toEqual([
      'Hours a week holds something that is not an answer.',
      'Nights holds something that is not an answer.',
      'Note holds a character that cannot be kept (U+0000 at character 2). Take it out.',
    ]);
    const long = readRow(blankTable('T'), { name: 'x'.repeat(301) });
    expect(long.ok || long.problems.map((p) => p.column)).toEqual(['name']);
  });

  it('of other key cells has another key, whatever stands in them', () => {
    const two = { key: ['a', 'b'] };
    fc.assert(
      fc.property(fc.array(fc.tuple(anyText, anyText), { minLength: 2, maxLength: 8 }), (cells) => {
        const keys = new Map<string, string>();
        for (const [a, b] of cells) {
          const key = keyOf(two, { a, b })!;
          const told = JSON.stringify([a.normalize('NFC'), b.normalize('NFC')]);
          expect(keys.get(key) ?? told).toBe(told);
          keys.set(key, told);
        }
      }),
    );
    expect(keyOf(two, { a: 'x', b: null })).toBeUndefined();
  });
});
const anyText = fc.oneof(
  fc.constantFrom('a', 'b|c', 'b', 'c', '|', '\\', '\\|', 'a|b', 'é', 'e\u0301'),
  fc.string({ minLength: 1, maxLength: 6 }).filter((s) => s.trim() !== ''),
);

describe('a sheet of cells', () => {
  it('has its columns by name, whatever their order and capitals; without the key it is refused', () => {
    expect(readHead(table, ['NOTE', ' place ', 'Colour', 'kind'])).toMatchObject({
      ok: true,
      columns: [{ id: 'note' }, { id: 'place' }, undefined, { id: 'kind' }],
    });
    expect(readHead(table, ['Place', 'Note'])).toMatchObject({ ok: false, sentence: expect.stringContaining('“Kind of work” is not among them') });
    expect(readHead(table, ['Note', 'Technician'])).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('“Place” and “Kind of work” are not'),
    });
    expect(readHead(table, ['Place', 'Kind of work', 'place'])).toMatchObject({ ok: false, sentence: 'Two columns of the file are called “Place”.' });
  });

  it.each<[string, string, Value | RegExp]>([
    ['place', 'quay HOUSE', quay],
    ['place', 'The moon', /“The moon” is not known/],
    ['kind', 'network', 'net'],
    ['kind', 'other', /none of the choices/],
    ['hours', '37,5', 37.5],
    ['hours', '37.50', 37.5],
    ['hours', '1,250', /can be read in two ways/],
    ['hours', '1.250,50', /can be read in two ways/],
    ['hours', 'many', /is not a number/],
    ['budget', '1250,5 eur', { amount: '1250.5', currency: 'EUR' }],
    ['budget', '12', /is not a sum/],
    ['since', '2026-02-28', '2026-02-28'],
    ['since', '2026-02-30', /is not a day/],
    ['nights', 'Yes', true],
    ['nights', 'n', false],
    ['nights', 'perhaps', /neither yes nor no/],
    ['note', '', null],
    ['note', ' =1+1 ', '=1+1'],
  ])('%s “%s”', (column, text, meant) => {
    const read = readCell(
      table.columns.find((c) => c.id === column)!,
      text,
      idOf,
    );
    if (meant instanceof RegExp) expect('sentence' in read && read.sentence).toMatch(meant);
    else expect(read).toEqual({ value: meant });
  });

  it('says what it would add, change and leave, and each line it cannot take; a column it has not stays', () => {
    const sheet = [
      ['Quay House', 'Network', 'Ada Strand'],
      ['Stores', 'Network', 'Ada Strand'],
      ['Stores', 'Desk side', 'Nobody'],
      ['', '', ''],
      ['stores', 'network', 'ada strand'],
      ['Quay House', '', 'Ada Strand'],
    ];
    const head = readHead(table, ['Place', 'Kind of work', 'Technician']);
    const was = { ...row, who: { person: 'p2' }, note: 'kept', hours: null, budget: null, since: null, nights: null };
    const plan = planImport(table, head.ok ? head.columns : [], sheet, new Map([['l1|net', was]]), idOf);
    expect(plan.changes).toEqual([{ line: 2, key: 'l1|net', cells: { ...was, who: { person: 'p1' } }, was, columns: ['who'] }]);
    expect(plan.adds.map((a) => [a.line, a.key])).toEqual([[3, 'l2|net']]);
    expect(plan.refused.map((r) => [r.line, r.problems.map((p) => p.sentence).join()])).toEqual([
      [4, 'Technician: “Nobody” is not known, or not by this name alone.'],
      [6, 'This is the same row as in line 3.'],
      [7, 'Choose “Kind of work”.'],
    ]);
    expect(plan.same).toBe(0);
    expect(previewOf(plan, (key) => key)).toMatchObject({
      adds: 1,
      changes: { many: 1, first: [{ line: 2, called: 'l1|net', columns: ['who'] }] },
      refused: { many: 3 },
    });
    const long = previewOf({ ...plan, refused: Array.from({ length: 5000 }, (_, line) => ({ line, problems: [] })) }, (key) => key);
    expect([long.refused.many, long.refused.first.length]).toEqual([5000, 100]);
  });

  it('of what was written is read back the same, through papaparse and its escaping of formulas, an independent reader', () => {
    const kinds: [Column['kind'], keyof typeof anyValue][] = [
      ['text', 'text'],
      ['number', 'number'],
      ['money', 'money'],
      ['date', 'date'],
      ['yesNo', 'boolean'],
      ['address', 'address'],
    ];
    for (const [kind, type] of kinds) {
      const column: Column = { id: 'x', kind, label: 'X', required: false };
      fc.assert(
        fc.property(anyValue[type], (value) => {
          const cell = (typeof value === 'string' ? value.trim() : value) as Value;
          fc.pre(!isEmpty(cell) && !(typeof cell === 'string' && /^[=+\-@\t\r]|[\r\n]|^'/.test(cell)));
          const written = Papa.parse<string[]>(Papa.unparse([[writtenCell(column, cell, names), 'end']]), { delimiter: ',' }).data[0]![0]!;
          const read = readCell(column, written, idOf);
          expect('value' in read && sameValue(read.value, cell), JSON.stringify([cell, written, read])).toBe(true);
        }),
      );
    }
  });

  it('names what is to be looked up, each once', () => {
    const head = readHead(table, ['Place', 'Kind of work', 'Technician', 'Note']);
    expect(
      namesIn(head.ok ? head.columns : [], [
        ['Quay House', 'Network', 'Ada Strand', 'Ada'],
        ['quay house', 'Desk side', '', ''],
      ]),
    ).toEqual([
      { kind: 'location', name: 'quay house' },
      { kind: 'person', name: 'ada strand' },
    ]);
  });
});

describe('a key in words', () => {
  const table = {
    key: ['role', 'team', 'state'],
    columns: [
      { id: 'role', kind: 'text' as const, label: 'Role', required: true },
      { id: 'team', kind: 'team' as const, label: 'Team', required: true },
      { id: 'state', kind: 'choice' as const, label: 'State', required: true, options: [{ value: 'n', label: 'New' }] },
    ],
  };
  const names = (_: string, id: string) => (id === 't1' ? 'Stores' : undefined);

  it('says what the row’s cells say, whatever stands in them', () => {
    fc.assert(
      fc.property(
        fc.string({ minLength: 1 }).filter((s) => s.trim() !== ''),
        fc.constantFrom('t1', 't2'),
        (role, team) => {
          const cells = { role, team: { team }, state: 'n' };
          const key = keyOf(table, cells)!;
          expect(namedInKey(table, key)).toEqual([{ team }]);
          expect(keyWords(table, key, names)).toBe([role.normalize('NFC'), team === 't1' ? 'Stores' : 't2', 'New'].join(', '));
        },
      ),
    );
  });
});
