import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Value, ValueType } from '../values/index.ts';
import { readExpression, workOut } from './index.ts';

const places: Record<string, Value> = {
  'form.cores': 4,
  'form.days': 10,
  'form.name': 'Tuva',
  'form.kit': ['laptop', 'lifeVest'],
  'form.from': '2026-03-02',
  'form.mentor': { person: 'p1' },
  'form.group': { group: 'g1' },
  'steps.task.tag': 'T-1',
  'request.now': '2026-03-02T09:00:00.000Z',
};
const read = (ref: string) => places[ref];
const result = (feel: string, type: ValueType = 'number') => {
  const worked = workOut(feel, type, read);
  return worked.ok ? worked.value : worked.sentence;
};

describe('what an expression reads', () => {
  it.each<[string, string[]]>([
    ['form.cores * form.days', ['form.cores', 'form.days']],
    ['if form.kind = "a" then steps.task.tag else "none"', ['form.kind', 'steps.task.tag']],
    ['sum(for x in form.kit return 1)', ['form.kit']],
    ['"form.cores"', []],
    ['other.thing + 1', []],
    ['form . cores', ['form.cores']],
    ['form.cores + form.cores', ['form.cores']],
  ])('%s', (feel, refs) => expect(readExpression(feel)).toEqual({ ok: true, refs }));

  it.each<[string, RegExp]>([
    ['', /nothing to work out/],
    ['   ', /nothing to work out/],
    ['1 +', /breaks off at character \d+/],
    ['(form.cores', /breaks off at character \d+/],
    ['now()', /now\(\) cannot be used here; pick the value “Now”/],
    ['today() + duration("P1D")', /today\(\) cannot be used here/],
  ])('an error is a sentence: “%s”', (feel, sentence) => {
    const parsed = readExpression(feel);
    expect(parsed.ok).toBe(false);
    expect(!parsed.ok && parsed.sentence).toMatch(sentence);
  });

  it('no text at all makes it throw', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'abform.cores+-*/()[]{}"<>=,0123456789 \n'.split('')) }), (text) => void readExpression(text)),
    );
  });
});

describe('what it gives', () => {
  it.each<[string, ValueType, unknown]>([
    ['form.cores * form.days', 'number', 40],
    ['count(form.kit)', 'number', 2],
    ['form.name + "!"', 'text', 'Tuva!'],
    ['form.cores > 2 and form.days < 30', 'boolean', true],
    ['date(form.from) + duration("P1D")', 'date', '2026-03-03'],
    ['form.mentor', 'person', { person: 'p1' }],
    ['form.group', 'group', { group: 'g1' }],
    ['upper case(steps.task.tag)', 'text', 'T-1'],
  ])('%s', (feel, type, value) => expect(result(feel, type)).toEqual(value));

  it.each<[string, ValueType, RegExp]>([
    ['form.nothing * 2', 'number', /form\.nothing has no value/],
    ['form.nothing + form.either', 'number', /form\.nothing, form\.either have no value/],
    ['form.name', 'number', /gave "Tuva", which is not a number/],
    ['form.cores', 'text', /gave 4, which is not a/],
    ['form.cores / 0', 'number', /gave no value/],
    ['null', 'number', /gave no value/],
    ['form.cores +', 'number', /breaks off/],
  ])('what is missing or of the wrong type is told: %s', (feel, type, sentence) => expect(result(feel, type)).toMatch(sentence));

  it('arithmetic on places is what the language of this test makes of it', () => {
    const leaf = fc.oneof(
      fc.integer({ min: -99, max: 99 }).map((n) => [`(${n})`, n] as const),
      fc.constantFrom(['form.cores', 4] as const, ['form.days', 10] as const),
    );
    const sum: fc.Arbitrary<readonly [string, number]> = fc.letrec<{ e: readonly [string, number] }>((tie) => ({
      e: fc.oneof(
        { maxDepth: 4 },
        leaf,
        fc.tuple(tie('e'), fc.constantFrom('+', '-', '*'), tie('e')).map(([a, op, b]) => {
          const n = op === '+' ? a[1] + b[1] : op === '-' ? a[1] - b[1] : a[1] * b[1];
          return [`(${a[0]} ${op} ${b[0]})`, n] as const;
        }),
      ),
    })).e;
    fc.assert(
      fc.property(sum, ([feel, n]) => void expect(result(feel)).toBeCloseTo(n, 6)),
      { numRuns: 200 },
    );
  });
});
