import { DmnModdle } from 'dmn-moddle';
import fc from 'fast-check';
import { evaluate, unaryTest } from 'feelin';
import { describe, expect, it } from 'vitest';
import { anyFacts, anyRouting, someTree } from '../routing/any.ts';
import { compileRouting, placesAround, rowFor, winningOrder, type RoutingFacts, type RoutingTable } from '../routing/index.ts';
import { dmnOf, readDmn, type DmnContext } from './index.ts';

// Held against dmn-moddle as an independent reader of DMN 1.3, and feelin as an independent interpreter of the FEEL in it.

/** Everything has a name that is not its id; two teams are called the same. */
const named = new Map([
  ...[...someTree.keys(), 'a', 'b', 'c', 'g', 'h'].map((id) => [id, `The “${id}” & <co>`] as const),
  ['east', 'East, upper'],
  ['birk', 'Birk'],
]);
const context: DmnContext = {
  tree: someTree,
  several: (c) => c.fact === 'group',
  names: {
    of: (key, id) => (key.startsWith('answer') ? undefined : id === 'west' ? 'west' : named.get(id)),
    called: (key, name) => (key.startsWith('answer') ? [] : name === 'west' ? ['west'] : [...named].filter(([, n]) => n === name).map(([id]) => id)),
    column: (c) => c.field ?? c.fact,
  },
};
const xmlOf = async (table: RoutingTable): Promise<string | undefined> => {
  const made = await dmnOf(table, context);
  return made.ok ? made.xml : undefined;
};

/** What DMN makes of the file for some facts, by its hit policy; each condition is evaluated by feelin. Undefined: the default. */
async function decided(xml: string, facts: RoutingFacts): Promise<[string, string] | undefined> {
  const { rootElement } = await new DmnModdle().fromXML(xml);
  type El = { text?: string; [k: string]: unknown };
  const logic = (rootElement['drgElement'] as { decisionLogic: Record<string, El[]> }[])[0]!.decisionLogic;
  const place = facts.get('place');
  const name = (id: string) => named.get(id) ?? id;
  const scope = {
    kind: typeof facts.get('kind') === 'string' ? name(facts.get('kind') as string) : null,
    places: typeof place === 'string' ? placesAround(someTree, place).map(name) : [],
    groups: (facts.get('group') as string[]).map(name),
    answers: { size: facts.get('answer.size') },
  };
  const inputs = logic['input']!.map((i) => (evaluate((i['inputExpression'] as El).text!, scope) as { value: unknown }).value);
  const rule = logic['rule']?.find((r) =>
    (r['inputEntry'] as El[]).every((e, n) => e.text === '-' || (unaryTest(e.text!, { '?': inputs[n] }) as { value: unknown }).value === true),
  );
  return rule && ((rule['outputEntry'] as El[]).map((e) => JSON.parse(e.text!) as string) as [string, string]);
}

describe('routing tables as DMN 1.3', () => {
  it('are read by dmn-moddle without warnings, in the namespace of DMN 1.3', async () => {
    await fc.assert(
      fc.asyncProperty(anyRouting, async (table) => {
        const xml = await xmlOf(table);
        fc.pre(xml !== undefined);
        expect(xml).toContain('https://www.omg.org/spec/DMN/20191111/MODEL/');
        expect((await new DmnModdle().fromXML(xml!)).warnings.map((w) => w.message)).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('decide as our own, each condition evaluated by feelin, whichever row the table says wins', async () => {
    let written = 0;
    await fc.assert(
      fc.asyncProperty(anyRouting, fc.array(anyFacts, { minLength: 1, maxLength: 6 }), async (table, all) => {
        const xml = await xmlOf(table);
        if (xml === undefined) return;
        written++;
        for (const facts of all) {
          const at = rowFor(table, facts, someTree);
          const to = at === undefined ? undefined : table.rows[at]!.answer;
          const said = await decided(xml, facts);
          expect(said).toEqual(
            to &&
              ('team' in to
                ? [to.team === 'east' ? 'East, upper' : 'west', { pickUp: 'pick up', inTurn: 'in turn', leastLoaded: 'least loaded' }[to.how]]
                : ['Birk', 'person']),
          );
        }
      }),
      { numRuns: 250 },
    );
    expect(written).toBeGreaterThan(150);
  });

  it('come back as tables that decide the same', async () => {
    await fc.assert(
      fc.asyncProperty(anyRouting, fc.array(anyFacts, { minLength: 1, maxLength: 8 }), async (table, all) => {
        const xml = await xmlOf(table);
        if (xml === undefined) return;
        const read = await readDmn(xml, context);
        if (!read.ok) throw new Error(read.sentence);
        const [before, after] = [compileRouting(table, someTree), compileRouting(read.table, someTree)];
        for (const facts of all) {
          const [a, b] = [before.decide(facts), after.decide(facts)];
          expect(b === undefined ? read.table.fallback : read.table.rows[b]!.answer).toEqual(
            a === undefined ? table.fallback : table.rows[a]!.answer,
          );
        }
      }),
      { numRuns: 200 },
    );
  });

  it('in which the most specific wins are written in an order in which the first wins, where there is one', () => {
    fc.assert(
      fc.property(anyRouting, fc.array(anyFacts, { minLength: 1, maxLength: 8 }), (table, all) => {
        const nearest: RoutingTable = { ...table, chooses: 'nearest' };
        const rows = winningOrder(nearest, someTree);
        if (!rows) return;
        const first: RoutingTable = { ...nearest, chooses: 'first', rows: rows.map((r, i) => ({ ...r, id: `w${i}` })) };
        for (const facts of all) {
          const [a, b] = [rowFor(nearest, facts, someTree), rowFor(first, facts, someTree)];
          expect(b === undefined ? undefined : rows[b]!.id).toBe(a === undefined ? undefined : nearest.rows[a]!.id);
        }
      }),
      { numRuns: 500 },
    );
  });

  it('of which no order says the same are refused, with what to do', async () => {
    const under = (place: string) => ({ place: { is: 'under' as const, places: [place] } });
    const team = { team: 'east', how: 'pickUp' as const };
    const table: RoutingTable = {
      name: 'Round',
      chooses: 'nearest',
      columns: [
        { id: 'kind', fact: 'kind' },
        { id: 'place', fact: 'place' },
      ],
      rows: [
        { id: 'wide', cells: under('north'), answer: team },
        { id: 'kind', cells: { kind: { is: 'oneOf', values: ['a'] } }, answer: { person: 'birk' } },
        { id: 'near', cells: under('hall'), answer: { team: 'west', how: 'inTurn' } },
      ],
      fallback: team,
    };
    expect(await dmnOf(table, context)).toMatchObject({ ok: false, sentence: expect.stringContaining('cannot be written as DMN as it stands') });
  });
});

describe('a DMN file that is no routing table', () => {
  const cell = (text: string, policy = 'FIRST', expression = 'kind', outputs = ['"west"', '"pick up"']) => `<?xml version="1.0" encoding="UTF-8"?>
<definitions xmlns="https://www.omg.org/spec/DMN/20191111/MODEL/" id="d" name="d" namespace="x"><decision id="x" name="Other"><decisionTable id="t" hitPolicy="${policy}">
<input id="i"><inputExpression id="e"><text>${expression}</text></inputExpression></input>
<output id="o"><defaultOutputEntry id="p"><text>"west"</text></defaultOutputEntry></output><output id="q"><defaultOutputEntry id="s"><text>"in turn"</text></defaultOutputEntry></output>
<rule id="r"><inputEntry id="n"><text>${text}</text></inputEntry>${outputs.map((o, i) => `<outputEntry id="z${i}"><text>${o}</text></outputEntry>`).join('')}</rule>
</decisionTable></decision></definitions>`;
  const says = async (xml: string) => {
    const read = await readDmn(xml, context);
    return read.ok ? read.table.rows[0]!.cells : read.sentence;
  };
  it.each([
    ['nonsense', 'This is no DMN file, or it did not arrive whole.'],
    ['<!DOCTYPE x [<!ENTITY a "b">]><definitions/>', 'The file declares entities of its own, which are not read.'],
    [cell('-', 'COLLECT'), 'Its hit policy is COLLECT; a routing table is First or Unique.'],
    [cell('-', 'FIRST', 'colour'), 'Column 1 looks at “colour”, which a routing table does not know.'],
    [cell('? = "a" and true'), 'Row 1, kind: “? = "a" and true” is no condition that a routing table knows.'],
    [cell('"nobody"'), 'Row 1, kind: nothing here is called “nobody”.'],
    [cell('-', 'FIRST', 'kind', ['"Nowhere"', '"pick up"']), 'Row 1 goes to “Nowhere”, and nothing here is called so.'],
    [cell('-', 'FIRST', 'kind', ['"west"', '"by lot"']), 'Row 1 is spread “by lot”; it is pick up, in turn, least loaded or person.'],
    [cell('-', 'FIRST', 'kind', ['west', '"pick up"']), 'Row 1 has no answer that can be read; it is two texts.'],
    [cell('[5..2]', 'FIRST', 'answers.size'), 'Row 1, size: the first number is the smaller one.'],
    [`${' '.repeat(2_000_001)}`, 'The file is larger than 2 MB.'],
  ])('%#: %s', async (xml, sentence) => expect(await says(xml)).toBe(sentence));
  it('is read where another hand wrote it in the same terms', async () => {
    expect(await says(cell('"a"', 'UNIQUE'))).toEqual({ c1: { is: 'oneOf', values: ['a'] } });
    expect(await says(cell('&gt;= 3', 'FIRST', 'answers.size'))).toEqual({ c1: { is: 'between', from: 3 } });
    expect(await says(cell('5, 6', 'FIRST', 'answers.size'))).toEqual({ c1: { is: 'oneOf', values: ['5', '6'] } });
  });
});
