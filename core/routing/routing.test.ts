import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyFacts, anyRouting, someTree } from './any.ts';
import { cellHolds, compileRouting, rowFor, RoutingTable, type RoutingFacts, type RoutingRow } from './index.ts';

const team = (id: string) => ({ team: id, how: 'pickUp' as const });
const oneOf = (...values: string[]) => ({ is: 'oneOf' as const, values });
const under = (...places: string[]) => ({ is: 'under' as const, places });
const row = (id: string, cells: RoutingRow['cells'], to: string): RoutingRow => ({ id, cells, answer: team(to) });
const table = (rows: RoutingRow[], chooses: RoutingTable['chooses'] = 'nearest'): RoutingTable => ({
  name: 'Who gets a ticket',
  chooses,
  columns: [
    { id: 'kind', fact: 'kind' },
    { id: 'about', fact: 'category' },
    { id: 'place', fact: 'place' },
  ],
  rows,
  fallback: team('workplace'),
});
const facts = (kind: string, category: string, place: string | null): RoutingFacts => new Map(Object.entries({ kind, category, place }));
const taken = (t: RoutingTable, f: RoutingFacts) => {
  const at = rowFor(t, f, someTree);
  expect(compileRouting(t, someTree).decide(f)).toBe(at);
  return at === undefined ? 'fallback' : t.rows[at]!.id;
};

describe('a routing table', () => {
  it('takes the row that states most, and of as many that of the nearest place', () => {
    const t = table([
      row('site', { kind: oneOf('incident'), place: under('north') }, 'a'),
      row('hall', { kind: oneOf('incident'), place: under('hall') }, 'b'),
      row('access', { kind: oneOf('incident'), about: oneOf('Access') }, 'c'),
      row('whole', { kind: oneOf('incident'), about: oneOf('Access'), place: under('floor') }, 'd'),
    ]);
    expect(taken(t, facts('incident', 'Charts', 'floor'))).toBe('hall');
    expect(taken(t, facts('incident', 'Charts', 'north'))).toBe('site');
    expect(taken(t, facts('incident', 'Access', 'floor'))).toBe('whole');
    // Equally specific, and one of them names no place: the first of them.
    expect(taken(t, facts('incident', 'Access', 'north'))).toBe('site');
    expect(taken(t, facts('request', 'Access', 'north'))).toBe('fallback');
    expect(taken(t, facts('incident', 'Charts', null))).toBe('fallback');
  });

  it('takes the first row where it says so', () => {
    const rows = [row('all', {}, 'a'), row('hall', { place: under('hall') }, 'b')];
    expect(taken(table(rows, 'first'), facts('incident', '', 'floor'))).toBe('all');
    expect(taken(table(rows, 'nearest'), facts('incident', '', 'floor'))).toBe('hall');
  });

  it('compiled decides as read row by row, for any table and any facts', () => {
    fc.assert(
      fc.property(anyRouting, fc.array(anyFacts, { minLength: 1, maxLength: 12 }), (t, all) => {
        const router = compileRouting(t, someTree);
        for (const f of all) expect(router.decide(f)).toBe(rowFor(t, f, someTree));
      }),
      { numRuns: 2000 },
    );
  });

  it('whose places go round in a circle is read to an end', () => {
    const round = new Map([
      ['a', 'b'],
      ['b', 'a'],
    ]);
    expect(cellHolds(under('b'), 'a', round)).toBe(true);
    expect(cellHolds(under('c'), 'a', round)).toBe(false);
  });

  it('that names what is not there, or says nothing of a place, is refused in a sentence', () => {
    const says = (t: unknown) => RoutingTable.safeParse(t).error?.issues.map((i) => i.message) ?? [];
    const good = table([]);
    expect(says(good)).toEqual([]);
    expect(says({ ...good, fallback: undefined })[0]).toBeDefined();
    expect(says({ ...good, columns: [...good.columns, { id: 'two', fact: 'kind' }] })).toEqual(['Two columns look at the same fact.']);
    expect(says({ ...good, columns: [{ id: 'size', fact: 'answer' }] })).toEqual(['Say which answer the column looks at.']);
    expect(says(table([row('r', { gone: oneOf('x') }, 'a')]))).toEqual(['This column is not there any more.']);
    expect(says(table([row('r', { kind: under('north') }, 'a')]))).toEqual(['Only a place has places within it.']);
    expect(says(table([row('r', { kind: oneOf() }, 'a')]))).toEqual(['Choose at least one.']);
  });

  it('of the generator are tables as they are kept', () => {
    fc.assert(fc.property(anyRouting, (t) => void expect(RoutingTable.parse(t)).toEqual(t)));
  });
});
