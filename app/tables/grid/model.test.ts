import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { begin, moved, pending, redo, removed, reread, settled, shown, typed, undo, unfinished, type GridState, type Read } from './model';

const rows: Read[] = [
  { key: 'North', version: 1, texts: ['North', '4'] },
  { key: 'South', version: 3, texts: ['South', '9'] },
];
const whole = (texts: readonly string[]) => texts.every((t) => t !== '');
const texts = (s: GridState) => s.order.map((id) => s.lines.get(id)!.texts.join(' '));
const start = () => begin(rows, 2);
const put = (s: GridState, row: number, col: number, text: string) => typed(s, [{ row, col, text }], 'Type');

describe('a grid while somebody types into it', () => {
  it('tells the server what was typed and is neither kept nor refused', () => {
    let s = put(start(), 0, 1, 'deep');
    const sent = pending(s, whole);
    expect(sent).toEqual([{ id: 'kNorth', row: { key: 'North', version: 1 }, texts: { 1: 'deep' } }]);
    s = settled(s, sent, [], [{ id: 'kNorth', problems: [{ col: 1, sentence: 'No number.' }] }]);
    expect([pending(s, whole), s.lines.get('kNorth')!.wrong]).toEqual([[], { 1: 'No number.' }]);
    s = put(s, 0, 1, '5');
    expect(s.lines.get('kNorth')!.wrong).toEqual({});
    const again = pending(s, whole);
    s = settled(put(s, 0, 1, '6'), again, [{ id: 'kNorth', key: 'North', version: 2, texts: ['North', '5'] }], []);
    // What was typed since stays, and is told next.
    expect([texts(s)[0], pending(s, whole)]).toEqual(['North 6', [{ id: 'kNorth', row: { key: 'North', version: 2 }, texts: { 1: '6' } }]]);
  });

  it('keeps a new row to itself until it is whole, and takes what the server makes of it', () => {
    let s = put(start(), 2, 0, 'West');
    expect([pending(s, whole), unfinished(s).map((l) => l.texts)]).toEqual([[], [['West', '']]]);
    s = put(s, 2, 1, '3,0');
    const sent = pending(s, whole);
    expect(sent).toEqual([{ id: 'n1', texts: { 0: 'West', 1: '3,0' } }]);
    s = settled(s, sent, [{ id: 'n1', key: 'West', version: 1, texts: ['West', '3'] }], []);
    expect([texts(s), unfinished(s)]).toEqual([['North 4', 'South 9', 'West 3'], []]);
  });

  it('takes rows off where they stood, and brings them back there; each time is a version', () => {
    let s = removed(start(), 0, 0);
    expect([texts(s), s.moves]).toEqual([['South 9'], [{ off: true, ids: ['kNorth'] }]]);
    s = moved(s, ['kNorth']);
    s = undo(s);
    expect([texts(s), s.moves]).toEqual([['North 4', 'South 9'], [{ off: false, ids: ['kNorth'] }]]);
    s = moved(s, ['kNorth']);
    expect([s.moves, s.lines.get('kNorth')!.kept!.version]).toEqual([[], 3]);
  });

  it('goes back through everything that was done, and forth again, whatever it was', () => {
    const act = fc.oneof(
      fc
        .record({ row: fc.nat(6), col: fc.nat(2), text: fc.constantFrom('', 'a', 'b', '7') })
        .map((g) => (s: GridState) => put(s, g.row, g.col, g.text)),
      fc.tuple(fc.nat(5), fc.nat(2)).map(
        ([from, more]) =>
          (s: GridState) =>
            removed(s, from, from + more),
      ),
      fc
        .array(fc.record({ row: fc.nat(6), col: fc.nat(1), text: fc.constantFrom('', 'x', 'y') }), { maxLength: 5 })
        .map((all) => (s: GridState) => typed(s, all, 'Paste')),
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 12 }), (acts) => {
        const seen = [texts(start())];
        let s = start();
        for (const a of acts) {
          const next = a(s);
          if (next !== s) seen.push(texts(next));
          s = next;
        }
        for (let i = seen.length - 2; i >= 0; i--) {
          s = undo(s);
          expect(texts(s)).toEqual(seen[i]);
        }
        expect([undo(s), s.done.length]).toEqual([s, 0]);
        for (let i = 1; i < seen.length; i++) {
          s = redo(s);
          expect(texts(s)).toEqual(seen[i]);
        }
        expect(redo(s)).toBe(s);
      }),
    );
  });

  it('shows what is asked for, in order; what is empty comes last', () => {
    const s = begin([...rows, { key: 'East', version: 1, texts: ['East', ''] }], 2);
    const by = { col: 1, compare: (a: string, b: string) => Number(a) - Number(b) };
    expect(texts(shown(s, () => true, { ...by, down: false }))).toEqual(['North 4', 'South 9', 'East ']);
    expect(texts(shown(s, () => true, { ...by, down: true }))).toEqual(['South 9', 'North 4', 'East ']);
    expect(texts(shown(s, (l) => l.texts[0] !== 'North'))).toEqual(['East ', 'South 9']);
  });

  it('reads the table anew under what is typed and not kept', () => {
    const s = reread(put(start(), 0, 1, '5'), [
      { key: 'North', version: 2, texts: ['North', '8'] },
      { key: 'West', version: 1, texts: ['West', '1'] },
    ]);
    expect(texts(s)).toEqual(['North 5', 'West 1']);
    expect(pending(s, whole)).toEqual([{ id: 'kNorth', row: { key: 'North', version: 2 }, texts: { 1: '5' } }]);
  });
});
