import canonicalize from 'canonicalize';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deepest, heard, isShallow, line, own, ownOr, readJson, sameJson, setOwn, taken, text, typed, unkeepableIn } from './index.ts';

const anyText = fc.string({ unit: 'binary', maxLength: 60 });
const halves = fc.constantFrom('\ud800', '\udfff', '\u0000', '\u001b', '\u0085', '\n', '\t', 'a', '🛶');
const hostile = fc.array(halves, { maxLength: 12 }).map((all) => all.join(''));

describe('text', () => {
  it.each<[string, string | undefined]>([
    ['plain', undefined],
    ['two\nlines\tand more\r\n', undefined],
    ['a\u0000b', 'U+0000 at character 2'],
    ['\u007f', 'U+007F at character 1'],
    ['x\u009b', 'U+009B at character 2'],
    ['\ud800', 'U+D800 at character 1'],
    ['a\udc00', 'U+DC00 at character 2'],
    ['\udc00\ud800', 'U+DC00 at character 1'],
    ['🛶', undefined],
  ])('%j', (s, found) => {
    expect(unkeepableIn(s)).toBe(found);
    expect(text(100).safeParse(s).success).toBe(found === undefined);
  });

  it('of one line has no line break, and neither grows over its length', () => {
    expect(line(5).safeParse('12345').success).toBe(true);
    expect(line(5).safeParse('123456').error?.issues[0]?.message).toBe('At most 5 characters.');
    expect(line(9).safeParse('a\nb').error?.issues[0]?.message).toBe('Has to stand on one line.');
    expect(line(9).trim().min(1).parse('  a ')).toBe('a');
  });

  it('as typed loses only what nobody sees; as heard shows that something was there; both can always be kept', () => {
    expect(typed('a\u0000b\r\nc\u0007 🛶')).toBe('ab\nc 🛶');
    expect(heard('a\u0000b', 10)).toBe('a\ufffdb');
    expect(heard('abcdef', 4)).toBe('abc…');
    expect(heard('ab🛶🛶', 4)).toBe('ab…');
    fc.assert(
      fc.property(fc.oneof(anyText, hostile), fc.integer({ min: 1, max: 30 }), (s, most) => {
        for (const out of [typed(s), heard(s, most)]) expect(unkeepableIn(out)).toBeUndefined();
        expect(heard(s, most).length).toBeLessThanOrEqual(most);
        // UTF-8 carries it there and back: nothing of it is half a character.
        expect(Buffer.from(typed(s), 'utf8').toString('utf8')).toBe(typed(s));
        if (unkeepableIn(s) === undefined && !s.includes('\r')) expect(typed(s)).toBe(s);
      }),
    );
  });
});

describe('JSON from outside', () => {
  it('is read where it is JSON and not too deep', () => {
    fc.assert(fc.property(fc.json({ maxDepth: 8 }), (s) => void expect(readJson(s)).toEqual({ ok: true, value: JSON.parse(s) as unknown })));
    const nested = (n: number) => '['.repeat(n) + ']'.repeat(n);
    expect(readJson(nested(deepest)).ok).toBe(true);
    expect(readJson(nested(deepest + 1))).toEqual({ ok: false, sentence: 'It is nested more than 64 levels deep.' });
    expect(readJson(nested(100_000)).ok).toBe(false);
    expect(readJson('{"a":'.repeat(100_000)).ok).toBe(false);
    expect(readJson(`"${'['.repeat(200)}\\""`).ok).toBe(true);
    expect(readJson('nonsense')).toEqual({ ok: false, sentence: 'It is not JSON.' });
  });
  it('that was built elsewhere is measured without walking further than it has to', () => {
    let deep: unknown = 1;
    for (let i = 0; i < 200_000; i++) deep = [deep];
    expect(isShallow(deep)).toBe(false);
    fc.assert(fc.property(fc.json({ maxDepth: 6 }), (s) => isShallow(JSON.parse(s))));
  });
});

describe('records under names somebody chose', () => {
  it.each([...taken])('%s is no value that is there, and one that is set is there', (name) => {
    const record: Record<string, number> = {};
    expect(own(record, name)).toBeUndefined();
    expect(ownOr(record, name, () => 7)).toBe(7);
    expect(own(record, name)).toBe(7);
    setOwn(record, name, 8);
    expect(own(JSON.parse(JSON.stringify(record)) as Record<string, number>, name)).toBe(8);
    expect(Object.getPrototypeOf(record)).toBe(Object.prototype);
    expect(({} as Record<string, unknown>)[name]).not.toBe(8);
  });
});

describe('two pieces of JSON', () => {
  /** As RFC 8785 writes it: names in order, nothing left out that is there. */
  const canonical = (x: unknown) => canonicalize(JSON.parse(JSON.stringify(x ?? null)));

  it('say the same exactly where their canonical forms (RFC 8785) are one, on generated JSON and small changes of it', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 4 }), fc.jsonValue({ maxDepth: 3 }), (a, b) => {
        const turned = (x: unknown): unknown =>
          Array.isArray(x)
            ? x.map(turned)
            : typeof x === 'object' && x !== null
              ? Object.fromEntries([
                  ...Object.entries(x)
                    .toReversed()
                    .map(([k, v]) => [k, turned(v)] as const),
                  ['left out', undefined],
                ])
              : x;
        expect(sameJson(a, turned(a))).toBe(true);
        expect(sameJson(a, b)).toBe(canonical(a) === canonical(b));
        expect(sameJson({ a, b: 1 }, { a: b, b: 1 })).toBe(canonical(a) === canonical(b));
        expect(sameJson([a, b], [b, a])).toBe(canonical([a, b]) === canonical([b, a]));
        expect(sameJson([a], [a, null])).toBe(false);
        expect(sameJson({ x: a }, { x: a, y: null })).toBe(false);
      }),
    );
  });
});
