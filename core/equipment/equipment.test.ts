import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { allot, compareCount, pieceStates, stepsBetween, type Booked } from './index.ts';

const tree = new Map<string, string | null>([
  ['site', null],
  ['house', 'site'],
  ['floor 1', 'house'],
  ['floor 2', 'house'],
  ['stores', 'site'],
  ['island', null],
  ['shed', 'island'],
]);
const places = [...tree.keys()];
const some = fc.constantFrom(...places);

describe('how far it is from a place to another', () => {
  it.each([
    ['floor 1', 'floor 1', 0],
    ['floor 1', 'house', 1],
    ['floor 1', 'floor 2', 2],
    ['floor 1', 'stores', 3],
    ['floor 1', 'shed', Infinity],
    [null, 'stores', Infinity],
    ['a place that is gone', 'stores', Infinity],
  ])('from %s to %s: %s', (a, b, steps) => expect(stepsBetween(tree, a, b)).toBe(steps));
  it('is the same there and back, and no way round is shorter', () => {
    fc.assert(
      fc.property(some, some, some, (a, b, c) => {
        expect(stepsBetween(tree, a, b)).toBe(stepsBetween(tree, b, a));
        expect(stepsBetween(tree, a, c)).toBeLessThanOrEqual(stepsBetween(tree, a, b) + stepsBetween(tree, b, c));
      }),
    );
  });
  it('a circle of places ends', () => {
    const round = new Map([
      ['a', 'b'],
      ['b', 'a'],
    ]);
    expect([stepsBetween(round, 'a', 'b'), stepsBetween(round, 'a', 'c')]).toEqual([1, Infinity]);
  });
});

describe('who gets a piece', () => {
  it('whoever waits longest, from the nearest place that has one', () => {
    const waiting = [
      { id: 'first', place: 'floor 1' },
      { id: 'second', place: 'floor 2' },
      { id: 'third', place: 'shed' },
      { id: 'fourth', place: null },
    ];
    const free = new Map([
      ['stores', 1],
      ['island', 2],
      ['house', 0],
    ]);
    expect(allot(waiting, free, tree)).toEqual([
      { id: 'first', from: 'stores' },
      { id: 'second', from: 'island' },
      { id: 'third', from: 'island' },
    ]);
    expect(allot([{ id: 'it', place: null }], new Map([['shed', 1]]), tree)).toEqual([{ id: 'it', from: 'shed' }]);
  });
  it('as many as there are, in their order, none twice; nobody could have had a nearer one that was left', () => {
    const people = fc.uniqueArray(fc.record({ id: fc.uuid(), place: fc.option(some) }), { selector: (w) => w.id, maxLength: 8 });
    const stock = fc.uniqueArray(fc.tuple(some, fc.integer({ min: 0, max: 3 })), { selector: ([p]) => p });
    fc.assert(
      fc.property(people, stock, (waiting, stocked) => {
        const left = new Map(stocked);
        const given = allot(waiting, left, tree);
        const all = stocked.reduce((n, [, m]) => n + m, 0);
        expect(given.map((g) => g.id)).toEqual(waiting.slice(0, all).map((w) => w.id));
        for (const [at, { from }] of given.entries()) {
          const steps = (p: string) => stepsBetween(tree, waiting[at]!.place, p);
          expect(left.get(from)).toBeGreaterThan(0);
          for (const [p, n] of left) if (n > 0) expect(steps(from)).toBeLessThanOrEqual(steps(p));
          left.set(from, left.get(from)! - 1);
        }
      }),
    );
  });
});

describe('a count', () => {
  const piece = (id: string, state: Booked['state'], place = 'stores', mark: string | null = id): Booked => ({ id, mark, place, state });
  it('tells what is missing, what stands in the wrong place, and what nobody knew of', () => {
    const books = [piece('FT-1', 'free'), piece('FT-2', 'setAside'), piece('FT-3', 'out'), piece('FT-4', 'free', 'shed'), piece('FT-5', 'retired')];
    const counted = compareCount(books, 'stores', [' ft-1', 'FT-3', 'FT-4', 'FT-9', 'ft-9 ', '']);
    expect({ ...counted, there: counted.there.map((b) => b.id), missing: counted.missing.map((b) => b.id) }).toEqual({
      there: ['FT-1'],
      missing: ['FT-2'],
      elsewhere: [books[2], books[3]],
      unknown: ['ft-9'],
      more: 0,
    });
  });
  it('of what nothing tells apart tells how many there are: what is free is missing before what is set aside', () => {
    const books = [piece('a', 'free', 'stores', null), piece('b', 'setAside', 'stores', null), piece('c', 'out', 'stores', null)];
    expect(compareCount(books, 'stores', 1)).toMatchObject({ there: [books[1]], missing: [books[0]], more: 0 });
    expect(compareCount(books, 'stores', 5)).toMatchObject({ missing: [], more: 3 });
    expect(compareCount(books, 'shed', 0)).toMatchObject({ there: [], missing: [], more: 0 });
  });
  it('what the books have on the shelf is there or missing, what was read is there, elsewhere or unknown; each once', () => {
    const book = fc.record({ mark: fc.integer({ min: 1, max: 12 }), place: some, state: fc.constantFrom(...pieceStates) });
    const books = fc.uniqueArray(book, { selector: (b) => b.mark }).map((all) => all.map((b) => ({ ...b, id: String(b.mark), mark: `M${b.mark}` })));
    fc.assert(
      fc.property(books, some, fc.array(fc.integer({ min: 1, max: 15 }).map((n) => `m${n}`)), (all, place, read) => {
        const { there, missing, elsewhere, unknown } = compareCount(all, place, read);
        const ids = (of: Booked[]) => of.map((b) => b.id);
        const shelf = all.filter((b) => b.place === place && ['free', 'setAside'].includes(b.state));
        expect(ids([...there, ...missing]).toSorted()).toEqual(ids(shelf).toSorted());
        expect(
          [...there, ...elsewhere]
            .map((b) => b.mark.toLowerCase())
            .concat(unknown)
            .toSorted(),
        ).toEqual([...new Set(read)].toSorted());
      }),
    );
  });
});
