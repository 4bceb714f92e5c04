import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Exchange, idAt, sameWords, saidIn, sayingBody, webActionSpecs, type Later, type WebSystem } from './index.ts';

const read = { path: '/items/{job}/comments', rows: '/comments', next: '/next', id: '/id', text: '/text', by: '/who/name' };
const exchange: Exchange = { read, say: { path: '/items/{job}/comments', text: 'text', by: 'by', id: '/id' } };
const page = (...comments: unknown[]) => saidIn(exchange, { comments });

describe('what is said in a system', () => {
  it('is read with what the system calls it and who said it, as far as it says', () => {
    expect(page({ id: 7, text: ' The pawl\r\nis worn. ', who: { name: 'Eir Holm' } }, { id: 'c-8', text: 'Ordered' })).toEqual({
      ok: true,
      rows: [
        { id: '7', text: 'The pawl\nis worn.', by: 'Eir Holm' },
        { id: 'c-8', text: 'Ordered', by: '' },
      ],
      odd: [],
      next: undefined,
    });
    expect(saidIn(exchange, { comments: [], next: '/items/Y-1/comments?from=50' })).toMatchObject({ next: '/items/Y-1/comments?from=50' });
    expect(saidIn(exchange, { said: [] })).toEqual({ ok: false, sentence: 'The answer has no list at “/comments”.' });
  });
  it('without a name of its own, or without words, it is told and left out, and harms no other', () => {
    for (const odd of [
      { text: 'x' },
      { id: {}, text: 'x' },
      { id: 'a\0', text: 'x' },
      { id: 'x'.repeat(201), text: 'x' },
      { id: 1 },
      { id: 1, text: ' ' },
      null,
    ]) {
      const found = page(odd, { id: 2, text: 'Ordered' });
      expect(found).toMatchObject({ ok: true, rows: [{ id: '2' }] });
      expect(found.ok && found.odd).toHaveLength(1);
    }
    expect(page({ id: 1, text: 'a\0b' })).toMatchObject({ rows: [{ text: 'a\ufffdb' }] });
  });
  it('whatever it answers, each row is kept or told, what is kept can be kept, and nothing is thrown', () => {
    fc.assert(
      fc.property(fc.array(fc.jsonValue({ maxDepth: 3 }), { maxLength: 5 }), fc.constantFrom('', '/id', '/0'), (rows, at) => {
        const found = saidIn({ read: { ...read, id: at, text: at, by: at } }, { comments: rows });
        expect(found.ok && found.rows.length + found.odd.length).toBe(rows.length);
        for (const one of found.ok ? found.rows : []) expect(one.text.trim()).toBe(one.text);
      }),
    );
  });
});

describe('what is said there from here', () => {
  it('says who says it, apart or in front', () => {
    const words = { text: 'It slips under load.', by: 'Tuva Fossness' };
    expect(sayingBody(exchange.say!, words)).toEqual({ text: 'It slips under load.', by: 'Tuva Fossness' });
    expect(sayingBody({ ...exchange.say!, by: undefined }, words)).toEqual({ text: 'Tuva Fossness: It slips under load.' });
  });
  it('is known again by what it is called, or by its words, whatever became of their white space', () => {
    expect([idAt({ id: 7 }, '/id'), idAt({ id: 'c-7' }, '/id'), idAt({ id: '' }, '/id'), idAt({}, '/id')]).toEqual([
      '7',
      'c-7',
      undefined,
      undefined,
    ]);
    expect(sameWords('It slips\n under load. ', 'It slips under load.')).toBe(true);
    expect(sameWords('It slips', 'It slips.')).toBe(false);
  });
  it('is offered to plans both ways, or only from there to here, as the action takes part in it', () => {
    const later: Later = { within: 'P1D', asked: { path: '/i/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 5 }, callsBack: false };
    const offers = (words: Later['words']) => {
      const action = {
        id: 'open',
        label: 'Open',
        method: 'POST',
        path: '/i',
        inputs: [],
        outputs: [],
        later: { ...later, ...(words && { words }) },
      } as const;
      return webActionSpecs('s', {
        name: 'Yard',
        address: 'https://yard.example',
        ownNetwork: false,
        timeoutMs: 1000,
        actions: [action],
      } as unknown as WebSystem)[0]!.exchanges;
    };
    expect([offers(exchange), offers({ read }), offers(undefined)]).toEqual(['bothWays', 'here', undefined]);
  });
  it.each(['/items/comments', '/items/{item}/comments', 'items/{job}', '/../{job}'])('is refused at a path like %s', (path) => {
    expect(Exchange.safeParse({ ...exchange, read: { ...read, path } }).success).toBe(false);
    expect(Exchange.safeParse({ ...exchange, say: { ...exchange.say, path } }).success).toBe(false);
    expect(Exchange.safeParse(exchange).success).toBe(true);
  });
});
