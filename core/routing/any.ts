import fc from 'fast-check';
import { choosings, spreads, type PlaceTree, type RoutingCell, type RoutingFacts, type RoutingTable } from './table.ts';

/** A small tree of places: a site with a building with a floor, another site with two buildings. */
export const someTree: PlaceTree = new Map([
  ['north', null],
  ['hall', 'north'],
  ['floor', 'hall'],
  ['south', null],
  ['shed', 'south'],
  ['store', 'south'],
]);
const places = [...someTree.keys()];
const texts = ['a', 'b', 'c'];
const groups = ['g', 'h'];

const some = <T>(of: readonly T[]) => fc.subarray([...of], { minLength: 1 });
const any = fc.constant<RoutingCell>({ is: 'any' });
const textCell = fc.oneof(
  { weight: 2, arbitrary: any },
  { weight: 3, arbitrary: some(texts).map((values): RoutingCell => ({ is: 'oneOf', values })) },
  fc.constant<RoutingCell>({ is: 'empty' }),
);
const cells = {
  kind: textCell,
  place: fc.oneof(
    any,
    some(places).map((p): RoutingCell => ({ is: 'under', places: p })),
    some(places).map((values): RoutingCell => ({ is: 'oneOf', values })),
    fc.constant<RoutingCell>({ is: 'empty' }),
  ),
  group: fc.oneof(
    any,
    some(groups).map((values): RoutingCell => ({ is: 'oneOf', values })),
    fc.constant<RoutingCell>({ is: 'empty' }),
  ),
  size: fc.oneof(
    any,
    fc.tuple(fc.option(fc.integer({ min: 0, max: 4 }), { nil: undefined }), fc.integer({ min: 0, max: 4 })).map(([from, more]): RoutingCell => ({
      is: 'between',
      ...(from !== undefined && { from }),
      ...((from === undefined || more > 1) && { to: (from ?? 0) + more }),
    })),
    fc.constant<RoutingCell>({ is: 'empty' }),
    fc.integer({ min: 0, max: 4 }).map((n): RoutingCell => ({ is: 'oneOf', values: [String(n)] })),
  ),
};
const answer = fc.oneof(fc.record({ team: fc.constantFrom('east', 'west'), how: fc.constantFrom(...spreads) }), fc.constant({ person: 'birk' }));

/** A routing table over a kind, a place, groups and a number, with any cells. */
export const anyRouting: fc.Arbitrary<RoutingTable> = fc
  .tuple(fc.constantFrom(...choosings), fc.subarray(['kind', 'place', 'group', 'size'] as const, { minLength: 1 }))
  .chain(([chooses, of]) =>
    fc
      .array(fc.tuple(fc.record(Object.fromEntries(of.map((c) => [c, cells[c]]))), answer), { maxLength: 7 })
      .chain((rows) => answer.map((fallback) => ({ rows, fallback })))
      .map(({ rows, fallback }): RoutingTable => ({
        name: 'Who gets it',
        chooses,
        columns: of.map((id) => (id === 'size' ? { id, fact: 'answer', field: 'size' } : { id, fact: id })),
        rows: rows.map(([its, to], i) => ({ id: `r${i}`, cells: its as Record<string, RoutingCell>, answer: to })),
        fallback,
      })),
  );

/** What can be known of a case, for such tables. */
export const anyFacts: fc.Arbitrary<RoutingFacts> = fc
  .record({
    kind: fc.constantFrom(...texts, 'other', null),
    place: fc.constantFrom(...places, 'nowhere', null),
    group: fc.subarray([...groups, 'other']),
    'answer.size': fc.constantFrom(-1, 0, 0.5, 1, 2, 3, 4, 5, 6, 9, null),
  })
  .map((facts) => new Map(Object.entries(facts)));
