import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { keysOfEdits, planEdits, type RowEdit, type StandingRow, type TableDefinition } from './index.ts';

const table: TableDefinition = {
  name: 'Berths',
  purpose: '',
  columns: [
    { id: 'name', kind: 'text', label: 'Name', required: true },
    { id: 'depth', kind: 'number', label: 'Depth', required: true, min: 1, max: 30 },
    { id: 'who', kind: 'person', label: 'Warden', required: false },
  ],
  key: ['name'],
};
const idOf = (_: string, name: string) => ({ 'ada strand': 'p1' })[name];
const stands = (rows: Record<string, number>): Map<string, StandingRow> =>
  new Map(Object.entries(rows).map(([name, depth]) => [name, { cells: { name, depth, who: null }, version: 1, off: false }]));
const at = (key: string, texts: Record<string, string>, version = 1): RowEdit => ({ id: key, row: { key, version }, texts });
const plan = (edits: RowEdit[], rows: Record<string, number> = { North: 4, South: 9 }) => {
  const there = stands(rows);
  const { written, refused } = planEdits(table, edits, there, idOf);
  return {
    written: written.map((w) => [w.from, w.key, w.cells['depth']]),
    refused: refused.flatMap((r) => r.problems.map((p) => `${r.id} ${p.column}: ${p.sentence}`)),
  };
};

describe('what is typed into cells', () => {
  it('goes in cell by cell; what cannot be taken is told at its cell and keeps no other out', () => {
    expect(plan([at('North', { depth: '4,5', who: 'Ada Strand' })]).written).toEqual([['North', 'North', 4.5]]);
    expect(plan([at('North', { depth: 'deep', who: 'Ada Strand' })])).toEqual({
      written: [['North', 'North', 4]],
      refused: ['North depth: Depth: “deep” is not a number.'],
    });
    expect(plan([at('North', { depth: '99', who: 'Nobody' })])).toEqual({
      written: [],
      refused: ['North who: Warden: “Nobody” is not known, or not by this name alone.', 'North depth: Depth: at most 30.'],
    });
    expect(plan([at('North', { depth: '' })]).refused).toEqual(['North depth: Fill in “Depth”.']);
  });

  it('makes a row where there is none, whole or not at all', () => {
    const fresh = (texts: Record<string, string>): RowEdit => ({ id: 'new', texts });
    expect(plan([fresh({ name: 'West', depth: '3' })]).written).toEqual([[undefined, 'West', 3]]);
    expect(plan([fresh({ name: 'West' })])).toEqual({ written: [], refused: ['new depth: Fill in “Depth”.'] });
    expect(plan([fresh({ name: 'North', depth: '3' })]).refused).toEqual([
      'new name: There is a row with this key already. Every row has a key of its own.',
    ]);
  });

  it('makes another row of one whose key is changed; two change places, and who may not move keeps the rest', () => {
    expect(plan([at('North', { name: 'West' })]).written).toEqual([['North', 'West', 4]]);
    expect(plan([at('North', { name: 'South' }), at('South', { name: 'North' })]).written).toEqual([
      ['North', 'South', 4],
      ['South', 'North', 9],
    ]);
    expect(plan([at('North', { name: 'South', depth: '7' })])).toEqual({
      written: [['North', 'North', 7]],
      refused: ['North name: There is a row with this key already. Every row has a key of its own.'],
    });
    // The second may not become the third; so it stays where it was, in the way of the first.
    expect(plan([at('A', { name: 'B' }), at('B', { name: 'C' })], { A: 1, B: 2, C: 3 })).toMatchObject({ written: [] });
  });

  it('changes nothing of a row that somebody else has changed or taken off meanwhile', () => {
    const there = stands({ North: 4 });
    there.get('North')!.version = 2;
    expect(planEdits(table, [at('North', { depth: '5' })], there, idOf)).toMatchObject({ written: [], refused: [{ id: 'North' }] });
    there.set('North', { ...there.get('North')!, version: 1, off: true });
    expect(planEdits(table, [at('North', { depth: '5' })], there, idOf).written).toEqual([]);
    // A key that was taken off can be had again.
    expect(planEdits(table, [{ id: 'n', texts: { name: 'North', depth: '5' } }], there, idOf).written).toHaveLength(1);
  });

  it('never leaves two rows with one key, loses no edit without a word, and keeps every row whole, whatever is typed', () => {
    const names = ['A', 'B', 'C', 'D', 'E', ''];
    const anyEdit = fc.record({
      key: fc.option(fc.constantFrom('A', 'B', 'C')),
      name: fc.option(fc.constantFrom(...names)),
      depth: fc.option(fc.constantFrom('1', '2', '99', 'deep', '')),
    });
    fc.assert(
      fc.property(fc.uniqueArray(anyEdit, { maxLength: 6, selector: (e) => e.key ?? {} }), (all) => {
        const there = stands({ A: 1, B: 2, C: 3 });
        const edits = all.map(({ key, name, depth }, i): RowEdit => ({
          id: `${i}`,
          ...(key !== null && { row: { key, version: 1 } }),
          texts: { ...(name !== null && { name }), ...(depth !== null && { depth }) },
        }));
        const { written, refused } = planEdits(table, edits, there, idOf);
        const left = new Map([...there].map(([key, row]) => [key, row.cells]));
        for (const w of written) if (w.from !== undefined) left.delete(w.from);
        for (const w of written) {
          expect(left.has(w.key)).toBe(false);
          left.set(w.key, w.cells);
        }
        for (const [key, cells] of left) expect([cells['name'], Number(cells['depth']) >= 1 && Number(cells['depth']) <= 30]).toEqual([key, true]);
        const known = keysOfEdits(table, edits, there, idOf);
        for (const w of written) expect(known.includes(w.key) || w.from === w.key).toBe(true);
        for (const edit of edits) {
          const was = edit.row && there.get(edit.row.key);
          const w = written.find((x) => x.id === edit.id);
          const told = refused.find((r) => r.id === edit.id)?.problems.map((p) => p.column) ?? [];
          // Every cell that was typed is there, or was that already, or is told.
          for (const [column, text] of Object.entries(edit.texts))
            expect(String(w?.cells[column] ?? was?.cells[column] ?? '') === text || told.length > 0, JSON.stringify([edit, w, told])).toBe(true);
        }
      }),
      { numRuns: 500 },
    );
  });
});
