import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sameJson } from '../boundary/index.ts';
import { anyRouting, someTree } from './any.ts';
import {
  analyseRouting,
  answerWords,
  beats,
  cellHolds,
  cellOf,
  cellWords,
  factKey,
  placesAround,
  readAnswer,
  readCell,
  routingFindings,
  rowFor,
  type FactClass,
  type RoutingDomain,
  type RoutingFacts,
  type RoutingNames,
  type RoutingTable,
} from './index.ts';

/** Small enough to be looked through value by value. */
const domain: RoutingDomain = {
  facts: new Map([
    ['kind', { values: ['a', 'b', 'c', 'other'], empty: true }],
    ['place', { values: [...someTree.keys()], empty: true }],
    ['group', { values: ['g', 'h'], several: true, empty: true }],
    ['answer.size', { values: [], numbers: true, empty: true }],
  ]),
};
const sizes = [-1, 0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5, 6, 6.5, 7, 7.5, 8, 8.5, 9, null];
const facts = { kind: ['a', 'b', 'c', 'other', null], place: [...someTree.keys(), null], group: [[], ['g'], ['h'], ['g', 'h']], size: sizes };

function* everyCase(table: RoutingTable): Generator<RoutingFacts> {
  const columns = table.columns.map((c) => [factKey(c), facts[c.id as keyof typeof facts]] as const);
  function* down(n: number, so: [string, string | number | string[] | null][]): Generator<RoutingFacts> {
    const column = columns[n];
    if (!column) return yield new Map(so);
    for (const value of column[1]) yield* down(n + 1, [...so, [column[0], value]]);
  }
  yield* down(0, []);
}
const holds = (table: RoutingTable, row: number, f: RoutingFacts) =>
  table.columns.every((c) => cellHolds(cellOf(table.rows[row]!, c.id), f.get(factKey(c)), someTree));
const isIn = (one: FactClass, value: unknown, named: ReadonlySet<string>): boolean => {
  // Of several values those that no cell names tell nothing apart.
  if (Array.isArray(value)) {
    const told = (value as string[]).filter((v) => named.has(v));
    return one.is === 'empty'
      ? value.length === 0
      : one.is === 'other'
        ? value.length > 0 && told.length === 0
        : told.length > 0 && told.toSorted().join() === one.values.toSorted().join();
  }
  if (one.is === 'empty') return value === null;
  if (one.is !== 'stretch') return one.values.includes(value as string);
  if (typeof value !== 'number') return false;
  return one.from !== undefined && one.from === one.to ? value === one.from : value > (one.from ?? -Infinity) && value < (one.to ?? Infinity);
};

describe('the analysis of a routing table', () => {
  it('finds just what brute force over every case finds', () => {
    fc.assert(
      fc.property(anyRouting, (table) => {
        const found = analyseRouting(table, domain, someTree, 10_000);
        expect([found.unknownColumns, found.notLookedThrough]).toEqual([[], []]);
        const [possible, wins, matters] = [new Set<number>(), new Set<number>(), new Set<number>()];
        const disagree = new Set<string>();
        const without = table.rows.map((_, r) => ({ ...table, rows: table.rows.filter((__, i) => i !== r) }));
        const named = new Set(table.rows.flatMap((r) => Object.values(r.cells).flatMap((cell) => (cell.is === 'oneOf' ? cell.values : []))));
        const inRegions = (f: RoutingFacts) =>
          found.uncovered!.regions.some((region) =>
            region.columns.every((classes, c) => !classes || classes.some((one) => isIn(one, f.get(factKey(table.columns[c]!)), named))),
          );
        for (const f of everyCase(table)) {
          const holding = table.rows.flatMap((_, r) => (holds(table, r, f) ? [r] : []));
          for (const r of holding) possible.add(r);
          // What no row takes stands in the regions, and nothing else does.
          expect(inRegions(f)).toBe(holding.length === 0);
          const winner = rowFor(table, f, someTree);
          if (winner !== undefined) {
            wins.add(winner);
            const next = rowFor(without[winner]!, f, someTree);
            const answer = next === undefined ? table.fallback : without[winner]!.rows[next]!.answer;
            if (!sameJson(answer, table.rows[winner]!.answer)) matters.add(winner);
          }
          const place = f.get('place');
          const around = placesAround(someTree, typeof place === 'string' ? place : null);
          for (const a of holding)
            for (const b of holding) {
              if (a >= b || table.chooses === 'first') continue;
              const [x, y] = [table.rows[a]!, table.rows[b]!];
              if (table.chooses === 'unique' || (!sameJson(x.answer, y.answer) && !beats(table, x, y, around) && !beats(table, y, x, around)))
                disagree.add(`${a} ${b}`);
            }
        }
        const all = table.rows.map((_, r) => r);
        expect(found.impossible).toEqual(all.filter((r) => !possible.has(r)));
        expect(found.never).toEqual(all.filter((r) => possible.has(r) && !wins.has(r)));
        expect(found.idle).toEqual(all.filter((r) => wins.has(r) && !matters.has(r)));
        expect(new Set(found.overlaps.map((o) => o.rows.join(' ')))).toEqual(disagree);
      }),
      { numRuns: 150 },
    );
  });

  const oneOf = (...values: string[]) => ({ is: 'oneOf' as const, values });
  const table = (rows: RoutingTable['rows'], chooses: RoutingTable['chooses'] = 'nearest'): RoutingTable => ({
    name: 'Who gets it',
    chooses,
    columns: [
      { id: 'kind', fact: 'kind' },
      { id: 'about', fact: 'category' },
    ],
    rows,
    fallback: { team: 'workplace', how: 'pickUp' },
  });
  const kinds: RoutingDomain = {
    facts: new Map([
      ['kind', { values: ['incident', 'change'], empty: false }],
      ['category', { values: ['Access', 'Pay', 'Models'], empty: true }],
    ]),
    categoriesOf: new Map([
      ['incident', new Set(['Access', 'Pay'])],
      ['change', new Set(['Models'])],
    ]),
  };
  const row = (id: string, cells: RoutingTable['rows'][number]['cells'], team = id) => ({ id, cells, answer: { team, how: 'pickUp' as const } });

  it('counts no category that a kind does not have', () => {
    const found = analyseRouting(table([row('a', { kind: oneOf('incident'), about: oneOf('Access') })]), kinds, new Map());
    // Incidents: Access, Pay or nothing; changes: Models or nothing.
    expect([found.combinations, found.uncovered!.combinations]).toEqual([5, 4]);
    expect(analyseRouting(table([row('a', { kind: oneOf('change'), about: oneOf('Access') })]), kinds, new Map()).impossible).toEqual([0]);
  });

  it('says so where it cannot look through', () => {
    const unknown = analyseRouting({ ...table([]), columns: [{ id: 'size', fact: 'answer', field: 'size' }] }, kinds, new Map());
    expect([unknown.unknownColumns, unknown.uncovered]).toEqual([[0], undefined]);
    const many = Array.from({ length: 12 }, (_, i) => `g${i}`);
    const groups: RoutingTable = { ...table([]), columns: [{ id: 'group', fact: 'group' }], rows: many.map((g) => row(g, { group: oneOf(g) })) };
    expect(analyseRouting(groups, { facts: new Map([['group', { values: many, several: true, empty: true }]]) }, new Map()).unknownColumns).toEqual([
      0,
    ]);
  });
});

describe('what a table says', () => {
  const called: Record<string, Record<string, string>> = {
    kind: { a: 'Incident', b: 'Request', c: 'Change', other: 'Problem' },
    place: { north: 'Torvay', hall: 'Chart Hall', floor: 'Chart Hall, floor 1', south: 'Lunnick', shed: 'Boat Shed', store: 'Stores' },
    group: { g: 'tide-models', h: 'chart-signoff' },
    team: { east: 'Workplace', west: 'Platforms' },
    person: { birk: 'Birk Saltvik' },
  };
  const names: RoutingNames = {
    of: (key, id) => called[key]?.[id],
    called: (key, name) => Object.entries(called[key] ?? {}).flatMap(([id, n]) => (n.toLowerCase() === name.toLowerCase() ? [id] : [])),
    column: (c) => (c.fact === 'answer' ? 'Size' : c.fact === 'kind' ? 'Kind' : c.fact === 'place' ? 'Place' : 'Group'),
  };

  it('is typed as it is said', () => {
    fc.assert(
      fc.property(anyRouting, (table) => {
        const known = (values: readonly string[]) => values.every((v) => called['kind']![v] ?? called['place']![v] ?? called['group']![v]);
        for (const row of table.rows) {
          for (const column of table.columns) {
            const cell = cellOf(row, column.id);
            if (cell.is === 'oneOf' && column.fact !== 'answer' && !known(cell.values)) continue;
            expect(readCell(cellWords(cell, column, names), column, names)).toEqual(
              // A single number is typed as itself.
              cell.is === 'between' && cell.from === cell.to ? { is: 'oneOf', values: [String(cell.from)] } : cell,
            );
          }
          expect(readAnswer(answerWords(row.answer, names), names)).toEqual(row.answer);
        }
      }),
    );
    const place = { id: 'place', fact: 'place' } as const;
    expect(readCell('Chart Hall, floor 1, lunnick', place, names)).toEqual({ is: 'under', places: ['floor', 'south'] });
    expect(readCell('Nowhere', place, names)).toEqual({ wrong: 'No place is called “Nowhere”.' });
    expect(readCell('5 to 2', { id: 'size', fact: 'answer', field: 'size' }, names)).toEqual({ wrong: 'The first number is the smaller one.' });
    expect(readAnswer('Stores', names)).toEqual({ wrong: 'No team, and nobody in one, is called “Stores”.' });
    expect(readAnswer('workplace, in turn', names)).toEqual({ team: 'east', how: 'inTurn' });
  });

  it('is a sentence each', () => {
    const under = (...places: string[]) => ({ is: 'under' as const, places });
    const oneOf = (...values: string[]) => ({ is: 'oneOf' as const, values });
    const to = (team: string) => ({ team, how: 'pickUp' as const });
    const table: RoutingTable = {
      name: 'Who gets a ticket',
      chooses: 'nearest',
      columns: [
        { id: 'kind', fact: 'kind' },
        { id: 'place', fact: 'place' },
      ],
      rows: [
        { id: 'r0', cells: { kind: oneOf('a') }, answer: to('east') },
        { id: 'r1', cells: { place: under('south') }, answer: to('west') },
        { id: 'r2', cells: { kind: oneOf('b'), place: under('gone') }, answer: to('west') },
        { id: 'r3', cells: { kind: oneOf('a'), place: under('hall') }, answer: to('east') },
        { id: 'r4', cells: { kind: oneOf('a') }, answer: to('west') },
      ],
      fallback: to('east'),
    };
    const domainOf: RoutingDomain = {
      facts: new Map([
        ['kind', { values: ['a', 'b', 'c', 'other'], empty: false }],
        ['place', domain.facts.get('place')!],
      ]),
    };
    const said = routingFindings(table, analyseRouting(table, domainOf, someTree), names, domainOf);
    expect(said.map((f) => f.sentence)).toEqual([
      'Row 3 never holds: there is no case like that.',
      'Row 5 never takes anything: other rows always come before it.',
      'Rows 1 and 2 both take kind Incident; place Lunnick, Boat Shed or Stores, equally specific, and send it elsewhere; row 1 counts, as it stands first.',
      'Rows 1 and 5 both take kind Incident, equally specific, and send it elsewhere; row 1 counts, as it stands first.',
      'No row takes kind Request, Change or Problem; place Torvay, Chart Hall, Chart Hall, floor 1 or nothing: 12 combinations that Workplace gets.',
      'Row 4 changes nothing: without it everything would go where it goes.',
    ]);
  });
});
