import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Cells, Change, StandingNow, TableDefinition } from './index.ts';
import { standingAfter, takeBack } from './index.ts';

const table: TableDefinition = {
  name: 'Sizes',
  purpose: '',
  columns: [
    { id: 'size', kind: 'text', label: 'Size', required: true },
    { id: 'cores', kind: 'number', label: 'Processors', required: false, min: 0, max: 64 },
    { id: 'note', kind: 'text', label: 'Note', required: false },
  ],
  key: ['size'],
};

/** Without what is empty. */
const plain = (cells: Cells) => Object.fromEntries(Object.entries(cells).filter(([, v]) => v !== null)) as Cells;

/** A table as somebody would keep it by hand, with the changes it tells. */
function kept() {
  const rows = new Map<string, StandingNow>();
  const acts: { changes: Change[]; after: Map<string, Cells> }[] = [];
  const there = () => new Map([...rows].flatMap(([k, r]) => (r.off ? [] : [[k, { ...r.cells }] as const])));
  return {
    rows,
    acts,
    act: (edits: { key: string; cells: Cells | undefined }[]) => {
      const changes: Change[] = [];
      for (const { key, cells } of edits) {
        const row = rows.get(key);
        if (cells === undefined) {
          if (!row || row.off) continue;
          row.off = true;
          changes.push({ key, column: null, was: true, now: null });
          continue;
        }
        if (!row || row.off) changes.push({ key, column: null, was: null, now: true });
        for (const c of table.columns) {
          const [was, now] = [row?.cells[c.id] ?? null, cells[c.id] ?? null];
          if (was !== now) changes.push({ key, column: c.id, was, now });
        }
        rows.set(key, { cells, off: false });
      }
      if (changes.length > 0) acts.push({ changes, after: there() });
    },
    there,
  };
}
const edit = fc.record({
  key: fc.constantFrom('S', 'M', 'L'),
  cells: fc.option(fc.record({ cores: fc.constantFrom(1, 2, 4), note: fc.constantFrom('a', 'b') }, { requiredKeys: [] }), { nil: undefined }),
});
const edits = fc.array(
  fc
    .uniqueArray(edit, { minLength: 1, maxLength: 3, selector: (e) => e.key })
    .map((all) => all.map(({ key, cells }) => ({ key, cells: cells && ({ size: key, ...cells } as Cells) }))),
  { minLength: 1, maxLength: 10 },
);

describe('the history of a table', () => {
  it('gives the rows as they stood after any act, on generated acts', () => {
    fc.assert(
      fc.property(edits, (all) => {
        const t = kept();
        for (const e of all) t.act(e);
        for (let n = 0; n <= t.acts.length; n++) {
          const stood = standingAfter(
            t.acts.slice(0, n).flatMap((a) => a.changes),
            table,
          );
          expect(stood).toEqual(n === 0 ? new Map() : t.acts[n - 1]!.after);
        }
      }),
    );
  });

  it('the last act taken back leaves what stood before it; an earlier one is taken back where nothing of it was changed since', () => {
    fc.assert(
      fc.property(edits, fc.nat(), (all, nth) => {
        const t = kept();
        for (const e of all) t.act(e);
        if (t.acts.length === 0) return;
        const n = nth % t.acts.length;
        const { changes } = t.acts[n]!;
        const taken = takeBack(table, changes, t.rows);
        const touched = new Set(changes.map((c) => `${c.key} ${c.column}`));
        const later = t.acts.slice(n + 1).flatMap((a) => a.changes);
        if ('sentence' in taken) {
          expect(later.some((c) => changes.some((x) => x.key === c.key))).toBe(true);
          return;
        }
        const after = t.there();
        for (const { key, cells } of taken.written) after.set(key, plain(cells));
        for (const key of taken.off) after.delete(key);
        for (const key of taken.back) after.set(key, t.rows.get(key)!.cells);
        if (n === t.acts.length - 1) expect(after).toEqual(n === 0 ? new Map() : t.acts[n - 1]!.after);
        // What is not of this act stands as it stood.
        const now = t.there();
        for (const [key, cells] of now) {
          if (!changes.some((c) => c.key === key)) expect(after.get(key)).toEqual(cells);
          else if (after.has(key))
            for (const c of table.columns) if (!touched.has(`${key} ${c.id}`)) expect(after.get(key)![c.id]).toEqual(cells[c.id]);
        }
      }),
      { numRuns: 400 },
    );
  });

  it('says why an act is not taken back', () => {
    const row = (cells: Cells, off = false) => new Map([['S', { cells, off }]]);
    const change: Change = { key: 'S', column: 'cores', was: 2, now: 4 };
    expect(takeBack(table, [change], row({ size: 'S', cores: 4 }))).toEqual({
      written: [{ key: 'S', cells: { size: 'S', cores: 2, note: null }, was: { size: 'S', cores: 4 } }],
      off: [],
      back: [],
    });
    expect(takeBack(table, [change], row({ size: 'S', cores: 8 }))).toEqual({ sentence: 'Row “S” has been changed since.' });
    expect(takeBack(table, [change], row({ size: 'S', cores: 4 }, true))).toEqual({ sentence: 'Row “S” has been changed since.' });
    expect(takeBack(table, [change], new Map())).toEqual({ sentence: 'Row “S” is not here any more.' });
    const narrow = { ...table, columns: table.columns.map((c) => (c.id === 'cores' ? { ...c, min: 3 } : c)) };
    expect(takeBack(narrow, [change], row({ size: 'S', cores: 4 }))).toEqual({
      sentence: expect.stringMatching(/^What stood in row “S” does not fit any more: /),
    });
    // A column that is gone is nobody's to change back.
    expect(takeBack({ ...table, columns: table.columns.slice(0, 1) }, [change], row({ size: 'S' }))).toEqual({ written: [], off: [], back: [] });
  });
});
