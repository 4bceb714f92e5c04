import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isNarrowed, lists, readAsked, writeAsked, type ListAsked, type ListName, type ListShape } from './index.ts';

const names = Object.keys(lists) as ListName[];

/** Whatever can be asked of a list: every filter, every order, every choice of columns. */
function anyAsked(shape: ListShape): fc.Arbitrary<ListAsked> {
  const day = fc.date({ min: new Date('1900-01-01'), max: new Date('2199-12-31'), noInvalidDate: true }).map((d) => d.toISOString().slice(0, 10));
  const filters = Object.entries(shape.filters);
  const choices = filters.filter(([, f]) => f.is !== 'days');
  const sorts = Object.keys(shape.columns).filter((c) => shape.columns[c]!.sorts);
  return fc.record({
    words: fc.string({ maxLength: 100, unit: 'grapheme' }).map((s) => s.slice(0, 100).trim()),
    sort: fc.record({ by: fc.constantFrom(...sorts), down: fc.boolean() }),
    wanted: fc
      .tuple(
        ...choices.map(([key, f]) =>
          fc.option(
            fc
              .uniqueArray(f.is === 'choice' ? fc.constantFrom(...Object.keys(f.options)) : fc.uuid(), { minLength: 1, maxLength: 4 })
              .map((ids) => [key, ids.toSorted()] as const),
            { nil: undefined },
          ),
        ),
      )
      .map((all) => Object.fromEntries(all.flatMap((x) => (x ? [x] : [])))),
    days: fc
      .tuple(
        ...filters
          .filter(([, f]) => f.is === 'days')
          .map(([key]) =>
            fc.option(
              fc.oneof(fc.record({ from: day }), fc.record({ to: day }), fc.record({ from: day, to: day })).map((d) => [key, d] as const),
              { nil: undefined },
            ),
          ),
      )
      .map((all) => Object.fromEntries(all.flatMap((x) => (x ? [x] : [])))),
    columns: fc.option(fc.subarray(Object.keys(shape.columns), { minLength: 1 }), { nil: undefined }),
    after: fc.constant(undefined),
  });
}

describe.each(names)('the list “%s”', (name) => {
  const shape: ListShape = lists[name];

  it('is asked the same by the address that is written of it', () => {
    fc.assert(
      fc.property(anyAsked(shape), (asked) => {
        const address = writeAsked(shape, asked);
        const read = readAsked(shape, new URLSearchParams(address));
        const shown =
          asked.columns?.join() ===
          Object.keys(shape.columns)
            .filter((c) => !shape.columns[c]!.aside)
            .join();
        expect(read).toEqual({ ...asked, columns: shown ? undefined : asked.columns });
        expect(writeAsked(shape, read)).toBe(address);
        expect(isNarrowed(read)).toBe(asked.words !== '' || Object.keys(asked.wanted).length + Object.keys(asked.days).length > 0);
      }),
    );
  });

  it('leaves out what an address says that it does not know', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.oneof(fc.constantFrom('q', 'sort', 'columns', 'after', ...Object.keys(shape.filters)), fc.string()), fc.string())),
        (given) => {
          const read = readAsked(shape, new URLSearchParams(given));
          expect(shape.columns[read.sort.by]?.sorts).toBe(true);
          for (const key of Object.keys(read.wanted)) expect(Object.hasOwn(shape.filters, key)).toBe(true);
          // What is read once reads the same again.
          expect(readAsked(shape, new URLSearchParams(writeAsked(shape, read)))).toEqual({
            ...read,
            after: undefined,
            wanted: sorted(read.wanted),
            columns: again(shape, read),
          });
        },
      ),
    );
  });
});

const sorted = (wanted: ListAsked['wanted']) => Object.fromEntries(Object.entries(wanted).map(([k, ids]) => [k, ids.toSorted()]));
const again = (shape: ListShape, read: ListAsked) =>
  read.columns?.join() ===
  Object.keys(shape.columns)
    .filter((c) => !shape.columns[c]!.aside)
    .join()
    ? undefined
    : read.columns;

it.each([
  ['opened=2026-02-30..', {}],
  ['opened=2026-11-26', { opened: { from: '2026-11-26' } }],
  ['opened=..2026-11-26', { opened: { to: '2026-11-26' } }],
  ['opened=1899-12-31..2026-11-26', { opened: { to: '2026-11-26' } }],
  ['opened=a..b..c', {}],
])('reads the days of %s', (address, days) => {
  expect(readAsked(lists.ledger, new URLSearchParams(address)).days).toEqual(days);
});
