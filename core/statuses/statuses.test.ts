import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shippedKinds } from '../tickets/index.ts';
import { anyMap } from './any.ts';
import {
  beginDot,
  checkMap,
  endRing,
  everStatus,
  isFinal,
  mapGraph,
  mapSays,
  reopens,
  StatusMap,
  statusOf,
  ways,
  withGone,
  withoutStatus,
} from './index.ts';

const incident = shippedKinds[0]!.map;
const codes = (map: StatusMap, fields: string[] = []) => checkMap(map, new Set(fields)).map((f) => f.code);
const sentences = (map: StatusMap) => checkMap(map, new Set()).map((f) => f.sentence);

describe('a status map', () => {
  it('that ships stops nothing, and says what it leads to', () => {
    for (const kind of shippedKinds) {
      expect(StatusMap.parse(kind.map)).toEqual(kind.map);
      expect(checkMap(kind.map, new Set()).filter((f) => f.stops)).toEqual([]);
    }
    expect(sentences(incident)).toEqual(['“New” to “Done” answers the clock and ends it at once.']);
    expect(mapSays(incident)).toEqual([
      'In “Waiting for you” the clock is held; an answer moves it to “In work”.',
      'After 5 d of working time in “Waiting for you” it goes to “Done” by itself.',
      'A word of the requester reopens it from “Done” to “In work”.',
      'After 5 d of working time in “Done” it goes to “Closed” by itself.',
    ]);
    expect([
      reopens(incident, 'done', 'inWork'),
      reopens(incident, 'inWork', 'done'),
      isFinal(incident, 'closed'),
      isFinal(incident, 'done'),
    ]).toEqual([true, false, true, false]);
  });

  const change = (of: (map: StatusMap) => void): StatusMap => {
    const map = structuredClone(incident);
    of(map);
    return map;
  };
  const find = (map: StatusMap, id: string) => statusOf(map, id)!;

  it('is told what is wrong with it', () => {
    expect(codes(change((m) => (m.moves = m.moves.filter((x) => x.to !== 'read'))))).toContain('unreached');
    expect(
      sentences(
        change((m) => {
          m.statuses.push({ id: 'lost', name: 'Lost', words: '', clock: 'runs', tells: [] });
          m.moves.push({ from: 'read', to: 'lost', who: ['team'], needs: [] });
        }),
      ),
    ).toContain('From “Lost” no way leads to an end.');
    expect(codes(change((m) => m.statuses.forEach((s) => (s.clock = 'runs'))))).toContain('ends-not-reached');
    expect(codes(change((m) => (find(m, 'read').clock = 'runs')))).toEqual(['never-answered']);
    expect(
      sentences(
        change((m) => {
          delete find(m, 'waiting').passes;
          m.moves = m.moves.filter((x) => x.from !== 'waiting');
        }),
      )[0],
    ).toMatch(/^Who never answers holds the clock in “Waiting for you” for ever/);
    expect(sentences(change((m) => (m.moves[0]!.who = [])))).toContain('Nobody may move a ticket from “New” to “Read”. Say who may.');
    expect(codes(change((m) => (m.moves[0]!.needs = ['cause'])))).toContain('unknown-field');
    expect(
      checkMap(
        change((m) => (m.moves[0]!.needs = ['cause'])),
        new Set(['cause']),
      ).map((f) => f.code),
    ).not.toContain('unknown-field');
    expect(
      sentences(
        change((m) => {
          find(m, 'done').passes!.to = 'inWork';
          find(m, 'inWork').passes = { after: { length: 'PT1H', counted: 'working' }, to: 'done' };
        }),
      ),
    ).toContain('A ticket that nobody touches goes round for ever: “In work” and “Done”. Let it stay in one of them.');
  });

  it('with names or moves twice, or that lead to what is not there, is refused in a sentence', () => {
    const says = (map: StatusMap) => StatusMap.safeParse(map).error?.issues.map((i) => i.message) ?? [];
    expect(says(change((m) => (m.statuses[1]!.name = 'new')))).toEqual(['Another status is called “new” already.']);
    expect(says(change((m) => (m.begin = 'gone')))).toEqual(['Say where a ticket begins.']);
    expect(says(change((m) => m.moves.push(m.moves[0]!)))).toEqual(['There is this move already.']);
    expect(says(change((m) => m.moves.push({ from: 'read', to: 'read', who: [], needs: [] })))).toEqual(['A move leads to another status.']);
    expect(says(change((m) => (find(m, 'done').answered = 'gone')))).toEqual(['This status is not there any more.']);
  });

  it('finds just those that no walk from the beginning comes to, and that no walk leads to an end from', () => {
    fc.assert(
      fc.property(anyMap, (map) => {
        // Every walk without a repeated status, written out.
        const walks = (from: string, seen: string[]): string[] =>
          seen.includes(from) ? [] : [from, ...ways(map, from).flatMap((to) => walks(to, [...seen, from]))];
        const reached = new Set(walks(map.begin, []));
        const found = checkMap(map, new Set(['cause']));
        const told = (code: string) => new Set(found.flatMap((f) => (f.code === code && 'status' in f.at ? [f.at.status] : [])));
        expect(told('unreached')).toEqual(new Set(map.statuses.map((s) => s.id).filter((id) => !reached.has(id))));
        const ends = (id: string) => walks(id, []).some((x) => statusOf(map, x)!.clock === 'ends');
        if (map.statuses.some((s) => s.clock === 'ends')) expect(told('no-end')).toEqual(new Set([...reached].filter((id) => !ends(id))));
        // By itself it goes round just where so many passings as there are statuses do not bring it to rest.
        const passed = (id: string): string | undefined => statusOf(map, id)!.passes?.to;
        const rests = map.statuses.every(({ id }) => {
          let at: string | undefined = id;
          for (let n = 0; n <= map.statuses.length && at !== undefined; n++) at = passed(at);
          return at === undefined;
        });
        expect(found.some((f) => f.code === 'goes-round')).toBe(!rests);
      }),
      { numRuns: 1000 },
    );
  });

  it('stays one without any of its statuses', () => {
    fc.assert(
      fc.property(anyMap, fc.nat(), (map, n) => {
        fc.pre(map.statuses.length > 1);
        const gone = map.statuses[n % map.statuses.length]!.id;
        const left = withoutStatus(map, gone);
        expect(StatusMap.parse(left)).toEqual(left);
        expect(JSON.stringify(left)).not.toContain(`"${gone}"`);
      }),
    );
  });

  it('knows what was taken away, whatever came and went: by its latest name, once, and never beside one that is there', () => {
    fc.assert(
      fc.property(fc.array(anyMap, { minLength: 2, maxLength: 6 }), (maps) => {
        const last = maps.reduce((before, next, i) => {
          const called = { ...next, statuses: next.statuses.map((s) => ({ ...s, name: `${s.id} ${i}` })) };
          return withGone(before, called);
        });
        expect(StatusMap.parse(last)).toEqual(last);
        const there = last.statuses.map((s) => s.id);
        const gone = (last.gone ?? []).map((s) => s.id);
        expect(new Set([...there, ...gone])).toEqual(new Set(maps.flatMap((m) => m.statuses.map((s) => s.id))));
        expect(gone.length + there.length).toBe(new Set([...there, ...gone]).size);
        for (const id of gone) {
          const at = maps.findLastIndex((m) => m.statuses.some((s) => s.id === id));
          expect(everStatus(last, id)!.name).toBe(at === 0 ? id : `${id} ${at}`);
        }
      }),
    );
  });

  it('is drawn with every way there is, each once, from the dot to the ring', () => {
    fc.assert(
      fc.property(anyMap, (map) => {
        const { nodes, edges } = mapGraph(map, () => 80);
        const there = new Set(nodes.map((n) => n.id));
        expect(edges.every((e) => there.has(e.from) && there.has(e.to))).toBe(true);
        const drawn = edges.filter((e) => e.from !== beginDot && e.to !== endRing).map((e) => `${e.from} ${e.to}`);
        const all = map.statuses.flatMap((s) => ways(map, s.id).map((to) => `${s.id} ${to}`)).filter((w) => w.split(' ')[0] !== w.split(' ')[1]);
        expect(drawn.toSorted()).toEqual(all.toSorted());
        expect(edges.filter((e) => e.from === beginDot).map((e) => e.to)).toEqual([map.begin]);
        for (const e of edges.filter((x) => x.to === endRing)) expect(statusOf(map, e.from)!.clock).toBe('ends');
      }),
    );
    expect(mapGraph(incident, () => 80).edges.find((e) => e.from === 'done' && e.to === 'inWork')?.is).toBe('reopens');
  });
});
