import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compile, analyseCoverage, type Condition, type Domain, type Example } from './index.ts';

const domains: Record<string, Domain> = {
  'form.n': { type: 'number', optional: false, min: 0, max: 10 },
  'form.m': { type: 'number', optional: true },
  'form.kind': { type: 'choice', optional: true, options: ['a', 'b', 'c'] },
  'form.yes': { type: 'boolean', optional: false },
  'form.day': { type: 'date', optional: true },
  'form.word': { type: 'text', optional: false },
  'form.who': { type: 'person', optional: true },
  'form.price': { type: 'money', optional: true },
  'form.place': { type: 'location', optional: false },
};
const domain = (ref: string) => domains[ref];
const orders = ['less', 'atMost', 'more', 'atLeast', 'is', 'isNot'] as const;
const same = ['is', 'isNot'] as const;
const compare = (ref: string, how: readonly string[], literal: fc.Arbitrary<unknown>): fc.Arbitrary<Condition> =>
  fc.record({ compare: fc.constantFrom(...how), left: fc.constant({ ref }), right: fc.record({ literal }) }) as fc.Arbitrary<Condition>;
const leaf: fc.Arbitrary<Condition> = fc.oneof(
  compare('form.n', orders, fc.integer({ min: -2, max: 12 })),
  compare('form.m', orders, fc.integer({ min: -3, max: 3 })),
  fc.record({
    compare: fc.constantFrom(...orders),
    left: fc.constant({ ref: 'form.n' }),
    right: fc.constant({ ref: 'form.m' }),
  }) as fc.Arbitrary<Condition>,
  compare('form.kind', same, fc.constantFrom('a', 'b', 'c')),
  compare('form.yes', same, fc.boolean()),
  compare('form.day', orders, fc.constantFrom('2026-03-01', '2026-03-05')),
  compare('form.word', same, fc.constantFrom('red', 'blue')),
  compare('form.who', same, fc.constantFrom({ person: 'p' })),
  compare('form.price', orders, fc.constantFrom({ amount: '10.50', currency: 'EUR' }, { amount: '12', currency: 'EUR' })),
  compare('form.place', same, fc.constantFrom({ location: 'l' })),
  fc.record({ has: fc.constantFrom({ ref: 'form.m' }, { ref: 'form.kind' }) }),
);
const condition = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { maxDepth: 2 },
    leaf,
    fc.record({ all: fc.array(tie('c'), { minLength: 1, maxLength: 2 }) }),
    fc.record({ any: fc.array(tie('c'), { minLength: 1, maxLength: 2 }) }),
    fc.record({ not: tie('c') }),
  ),
})).c as fc.Arbitrary<Condition>;
const maybe = <T>(a: fc.Arbitrary<T>) => fc.option(a, { nil: null });
const values: fc.Arbitrary<Example> = fc.record({
  'form.n': fc.oneof(fc.integer({ min: 0, max: 10 }), fc.double({ min: 0, max: 10, noNaN: true })),
  'form.m': maybe(fc.oneof(fc.integer({ min: -50, max: 50 }), fc.double({ min: -4, max: 4, noNaN: true }))),
  'form.kind': maybe(fc.constantFrom('a', 'b', 'c')),
  'form.yes': fc.boolean(),
  'form.day': maybe(fc.integer({ min: 1, max: 9 }).map((d) => `2026-03-0${d}`)),
  'form.word': fc.constantFrom('red', 'blue', 'green', 'x'),
  'form.who': maybe(fc.constantFrom({ person: 'p' }, { person: 'q' })),
  'form.price': maybe(
    fc.record({ amount: fc.constantFrom('0', '10.5', '10.50', '11.999999', '12.00', '12.01', '99'), currency: fc.constantFrom('EUR', 'EUR', 'NOK') }),
  ),
  'form.place': fc.constantFrom({ location: 'l' }, { location: 'm' }),
});

describe('looking conditions through', () => {
  it('agrees with any values anybody could give: what never holds never does, what always holds always does, what has no gap has none', () => {
    let never = 0;
    let always = 0;
    fc.assert(
      fc.property(fc.array(condition, { minLength: 1, maxLength: 3 }), fc.array(values, { minLength: 30, maxLength: 30 }), (conditions, tries) => {
        const ranges = analyseCoverage(conditions, domain);
        if (!ranges) return;
        const tests = conditions.map(compile);
        never += ranges.possible.filter((p) => !p).length;
        always += ranges.always.filter(Boolean).length;
        for (const example of tries) {
          const held = tests.map((t) => t((ref) => example[ref]));
          held.forEach((h, i) => {
            if (h) expect(ranges.possible[i], JSON.stringify(conditions[i])).toBe(true);
            else expect(ranges.always[i], JSON.stringify(conditions[i])).toBe(false);
          });
          const first = held.indexOf(true);
          if (first >= 0) expect(ranges.first[first]).toBe(true);
          else expect(ranges.gap).toBeDefined();
          const [a, b] = held.flatMap((h, i) => (h ? [i] : []));
          if (a !== undefined && b !== undefined) expect(ranges.overlaps.some((o) => o.a === a && o.b === b)).toBe(true);
        }
      }),
      { numRuns: 700 },
    );
    // Not for want of conditions that never or always hold.
    expect(never).toBeGreaterThan(5);
    expect(always).toBeGreaterThan(2);
  });

  it('gives examples that really are so', () => {
    fc.assert(
      fc.property(fc.array(condition, { minLength: 2, maxLength: 3 }), (conditions) => {
        const ranges = analyseCoverage(conditions, domain);
        const holds = (i: number, e: Example) => compile(conditions[i]!)((ref) => e[ref]);
        if (ranges?.gap) conditions.forEach((_, i) => expect(holds(i, ranges.gap!)).toBe(false));
        for (const o of ranges?.overlaps ?? []) expect([holds(o.a, o.example), holds(o.b, o.example)]).toEqual([true, true]);
      }),
      { numRuns: 200 },
    );
  });

  it('takes into account what is known where a condition stands', () => {
    const n = (compare: 'less' | 'atLeast', literal: number): Condition => ({ compare, left: { ref: 'form.n' }, right: { literal } });
    expect(analyseCoverage([n('less', 3)], domain, [{ when: n('atLeast', 4), holds: true }])?.possible).toEqual([false]);
    expect(analyseCoverage([n('less', 3)], domain, [{ when: n('atLeast', 3), holds: false }])?.always).toEqual([true]);
  });

  it('says that it does not know rather than guess: unknown places, texts in order, too many combinations', () => {
    expect(analyseCoverage([{ has: { ref: 'form.gone' } }], domain)).toBeUndefined();
    expect(analyseCoverage([{ compare: 'less', left: { ref: 'form.word' }, right: { literal: 'm' } }], domain)).toBeUndefined();
    const wide = (i: number): Condition => ({
      any: Array.from({ length: 8 }, (_, v) => ({ compare: 'is', left: { ref: `form.x${i}` }, right: { literal: v } })),
    });
    expect(analyseCoverage([{ all: [0, 1, 2, 3].map(wide) }], () => ({ type: 'number', optional: true }))).toBeUndefined();
  });
});
