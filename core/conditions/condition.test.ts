import fc from 'fast-check';
import { evaluate } from 'feelin';
import { describe, expect, it } from 'vitest';
import { compile, conditionFeel, conditionWords, impliedPresent, type Condition } from './index.ts';

const refs = ['form.a', 'form.b', 'form.m', 'form.t', 'steps.x.n', 'steps.x.flag'];
const sums = [
  { amount: '12.50', currency: 'EUR' },
  { amount: '12.5', currency: 'EUR' },
  { amount: '20', currency: 'EUR' },
  { amount: '12.50', currency: 'NOK' },
];
/** Sums are ordered with stated ones; in FEEL two places of them have no order. */
const sum = (verbs: readonly (typeof equalities | typeof orders)[number][]) =>
  fc.record({ compare: fc.constantFrom(...verbs), left: fc.constant({ ref: 'form.m' }), right: fc.record({ literal: fc.constantFrom(...sums) }) });
const equalities = ['is', 'isNot'] as const;
const orders = ['less', 'atMost', 'more', 'atLeast'] as const;
/** Comparisons are typed, as the screens make them: like with like, and an order only where the type has one. */
const typed = (
  places: string[],
  literals: fc.Arbitrary<string | number | boolean | null>,
  verbs: readonly (typeof equalities | typeof orders)[number][],
) =>
  fc.record({
    compare: fc.constantFrom(...verbs),
    left: fc.record({ ref: fc.constantFrom(...places) }),
    right: fc.oneof(fc.record({ ref: fc.constantFrom(...places) }), fc.record({ literal: literals })),
  });
const comparison = fc.oneof(
  typed(['form.a', 'form.b'], fc.constantFrom('red', 'blue', 'x y', null), equalities),
  typed(['form.a', 'form.b'], fc.constantFrom('red', 'blue', 'x y'), orders),
  typed(['steps.x.n'], fc.integer({ min: -3, max: 3 }), [...equalities, ...orders]),
  typed(['steps.x.flag'], fc.boolean(), equalities),
  sum([...equalities, ...orders]),
  fc.record({
    compare: fc.constantFrom(...equalities),
    left: fc.constant({ ref: 'form.t' }),
    right: fc.record({ literal: fc.constantFrom({ team: 'a' }, { team: 'b' }) }),
  }),
);
const anyCondition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { maxDepth: 3 },
    fc.record({ has: fc.record({ ref: fc.constantFrom(...refs) }) }),
    comparison,
    fc.record({ all: fc.array(tie('c'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ any: fc.array(tie('c'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ not: tie('c') }),
  ),
})).c as fc.Arbitrary<Condition>;

/** Values are typed in a form: a place holds one type or nothing. */
const anyValues = fc.record({
  'form.a': fc.constantFrom('red', 'blue', 'x y', null),
  'form.b': fc.constantFrom('red', 'blue', null),
  'form.m': fc.constantFrom(...sums, null),
  'form.t': fc.constantFrom({ team: 'a' }, { team: 'c' }, null),
  'steps.x.n': fc.oneof(fc.integer({ min: -3, max: 3 }), fc.constant(null)),
  'steps.x.flag': fc.oneof(fc.boolean(), fc.constant(null)),
});

describe('conditions', () => {
  it('give the answer of an independent FEEL interpreter (feelin; OMG DMN 1.3) on generated trees', () => {
    let held = 0;
    fc.assert(
      fc.property(anyCondition, anyValues, (condition, values) => {
        const context = {
          form: {
            a: values['form.a'],
            b: values['form.b'],
            m: values['form.m'] && { ...values['form.m'], amount: Number(values['form.m'].amount) },
            t: values['form.t']?.team ?? null,
          },
          steps: { x: { n: values['steps.x.n'], flag: values['steps.x.flag'] } },
        };
        const feel = evaluate(conditionFeel(condition), context) as { value?: unknown } | unknown;
        const theirs = (feel !== null && typeof feel === 'object' && 'value' in feel ? feel.value : feel) === true;
        const ours = compile(condition)((ref) => values[ref as keyof typeof values]);
        if (ours) held++;
        expect(ours, conditionFeel(condition)).toBe(theirs);
      }),
      { numRuns: 600 },
    );
    expect(held).toBeGreaterThan(50);
  });

  it('read as a sentence', () => {
    const c: Condition = {
      all: [
        { has: { ref: 'form.a' } },
        { any: [{ compare: 'is', left: { ref: 'form.a' }, right: { literal: 'red' } }, { not: { has: { ref: 'form.b' } } }] },
      ],
    };
    const naming = { place: (r: string) => (r === 'form.a' ? 'Colour' : 'Size'), value: (v: unknown) => String(v) };
    expect(conditionWords(c, naming)).toBe('Colour has a value and (Colour is red or Size has no value)');
    // What lies in time is before or after; an amount is less or more.
    const day: Condition = { compare: 'atMost', left: { ref: 'form.day' }, right: { literal: '2026-03-02' } };
    const timed = { ...naming, place: () => 'First day', value: () => '2 Mar 2026' };
    expect(conditionWords(day, { ...timed, type: () => 'date' })).toBe('First day is on or before 2 Mar 2026');
    expect(conditionWords({ ...day, compare: 'more' }, { ...timed, type: () => 'instant' })).toBe('First day is after 2 Mar 2026');
    expect(conditionWords(day, { ...timed, type: () => 'number' })).toBe('First day is at most 2 Mar 2026');
  });

  it('say which places must have a value whenever they hold', () => {
    fc.assert(
      fc.property(anyCondition, anyValues, (condition, values) => {
        const read = (ref: string) => values[ref as keyof typeof values];
        if (compile(condition)(read)) for (const ref of impliedPresent(condition)) expect(read(ref)).not.toBeNull();
      }),
      { numRuns: 600 },
    );
  });

  it('cannot be told apart from false when a missing number is compared, and negation does not make it true', () => {
    const less: Condition = { compare: 'less', left: { ref: 'form.n' }, right: { literal: 3 } };
    expect(compile(less)(() => undefined)).toBe(false);
    expect(compile({ not: less })(() => undefined)).toBe(false);
  });
});
