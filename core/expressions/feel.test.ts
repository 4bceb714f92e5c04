import fc from 'fast-check';
import { evaluate } from 'feelin';
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
  'form.price': { amount: '1250.50', currency: 'EUR' },
  'form.place': { location: 'l1' },
  'form.long': { decimal: '12345678901234567890.12' },
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
    ['for form in [1, 2] return form', []],
    ['form . cores', ['form.cores']],
    ['form.cores + form.cores', ['form.cores']],
    ['form.price.amount * 2', ['form.price']],
    ['form.machine.processors * form.machine.daily.amount', ['form.machine.processors', 'form.machine.daily']],
  ])('%s', (feel, refs) => expect(readExpression(feel)).toMatchObject({ ok: true, refs }));

  it.each<[string, RegExp]>([
    ['', /nothing to work out/],
    ['   ', /nothing to work out/],
    ['1 +', /breaks off at character \d+/],
    ['(form.cores', /breaks off at character \d+/],
    ['now()', /now\(\) cannot be used here; pick the value “Now”/],
    ['today() + duration("P1D")', /today\(\) cannot be used here/],
    ['other.thing + 1', /“other” is not known here/],
    ['if form.kind = "a" then fomr.cores else 1', /“fomr” is not known here/],
    ['some x in form.kit satisfies y = "laptop"', /“y” is not known here/],
    ['lenght(form.name)', /no function “lenght”/],
    ['form + 1', /“form” is not a value/],
    ['steps.task', /“steps\.task” is not a value/],
    ['form.price.amount.cents', /“form\.price” has no part called “amount\.cents”/],
    ['form.from.year.month', /“form\.from\.year” has no part called “month”/],
    ['constructor', /not known/],
    ['form.name.constructor.name', /no part/],
  ])('an error is a sentence: “%s”', (feel, sentence) => {
    const parsed = readExpression(feel);
    expect(parsed.ok).toBe(false);
    expect(!parsed.ok && parsed.sentence).toMatch(sentence);
  });

  it.each<[string, string[]]>([
    ['form.a + 1', ['form.a']],
    ['if form.a != null then form.a else form.b', ['form.b']],
    ['if form.a = null then 0 else form.a', []],
    ['form.a != null and form.a > 2', []],
    ['form.a = null or form.a > 2', []],
    ['form.a != null or form.a > 2', ['form.a']],
    ['if not(form.a = null) and form.b != null then form.a + form.b else 0', []],
    ['if form.a != null then form.b else form.a', ['form.b', 'form.a']],
  ])('what is needed, and what is tested for null before: %s', (feel, needs) => {
    const parsed = readExpression(feel);
    expect(parsed.ok && [...parsed.needs].sort()).toEqual(needs.toSorted());
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
    ['form.price.amount * form.cores', 'number', 5002],
    ['{amount: form.price.amount * form.cores, currency: form.price.currency}', 'money', { amount: '5002', currency: 'EUR' }],
    ['form.price', 'money', { amount: '1250.5', currency: 'EUR' }],
    ['if form.price.amount > 1000 then "dear" else "cheap"', 'text', 'dear'],
    ['form.place', 'location', { location: 'l1' }],
    [
      '[form.price, {amount: 2, currency: "EUR"}]',
      'sums',
      [
        { amount: '1250.5', currency: 'EUR' },
        { amount: '2', currency: 'EUR' },
      ],
    ],
    // Every digit is kept, also those a JSON number could not tell apart.
    ['1 / 3', 'number', { decimal: '0.3333333333333333333333333333333333' }],
    ['form.long * 2', 'number', { decimal: '24691357802469135780.24' }],
    ['form.long = 12345678901234567890.12', 'boolean', true],
  ])('%s', (feel, type, value) => expect(result(feel, type)).toEqual(value));

  it.each<[string, ValueType, RegExp]>([
    ['form.nothing * 2', 'number', /form\.nothing has no value/],
    ['form.nothing + form.either', 'number', /form\.nothing, form\.either have no value/],
    ['form.name', 'number', /gave "Tuva", which is not a number/],
    ['form.cores', 'text', /gave 4, which is not a/],
    ['form.cores / 0', 'number', /gave no value/],
    ['form.price.amount', 'money', /which is not a sum of money/],
    ['{amount: 1, currency: "euro"}', 'money', /no value|not a sum of money/],
    ['null', 'number', /gave no value/],
    ['form.cores +', 'number', /breaks off/],
  ])('what is missing or of the wrong type is told: %s', (feel, type, sentence) => expect(result(feel, type)).toMatch(sentence));

  it.each<[string, ValueType, unknown]>([
    // DMN 1.3, 10.3.2.3.1: decimals of 34 digits, so that what is exact on paper is exact here.
    ['0.1 + 0.2', 'number', 0.3],
    ['0.1 + 0.2 = 0.3', 'boolean', true],
    ['1 / 3 * 3 = 1', 'boolean', false],
    ['string(1 / 3)', 'text', '0.3333333333333333333333333333333333'],
    ['9007199254740993 + 0 = 9007199254740992', 'boolean', false],
    ['1e3', 'number', 1000],
    ['-1.5E-3', 'number', -0.0015],
    ['decimal(2.5, 0)', 'number', 2],
    ['modulo(-12, 5)', 'number', 3],
    ['count(form.kit[item = "laptop"])', 'number', 1],
    ['form.kit[-1]', 'text', 'lifeVest'],
    ['[1, 2, 3, 4][item > 2][1]', 'number', 3],
    ['duration("P1D") / duration("PT6H")', 'number', 4],
    ['(date("2026-03-05") - date(form.from)) / duration("P1D")', 'number', 3],
    ['duration("P1Y") / duration("P6M")', 'number', 2],
    ['date("2026-01-31") + duration("P1M")', 'date', '2026-02-28'],
    ['date(form.from) - duration("P1D")', 'date', '2026-03-01'],
    ['date and time(request.now) + duration("PT90M")', 'instant', '2026-03-02T10:30:00.000Z'],
    ['if form.nothing != null then form.nothing else 7', 'number', 7],
    ['form.cores in [1..4]', 'boolean', true],
    ['form.cores in (1, 2, > 3)', 'boolean', true],
    ['form.cores between 5 and 9', 'boolean', false],
    ['some x in form.kit satisfies x = "laptop"', 'boolean', true],
    ['sum(for x in 1..10 return x ** 2)', 'number', 385],
    ['{a: 2, b: a * 3}.b', 'number', 6],
    ['sort([3, 1, 2], function(a, b) a > b)[1]', 'number', 3],
    ['replace("2026-03", "([0-9]+)-([0-9]+)", "$2/$1")', 'text', '03/2026'],
    ['substring(string: "harbour", start position: 5)', 'text', 'our'],
    ['"\\u0041\\n"', 'text', 'A\n'],
  ])('%s is %j', (feel, type, value) => expect(result(feel, type)).toEqual(value));

  it.each<[string, ValueType, RegExp]>([
    ['if form.cores > "2" then 1 else 2', 'number', /a number and a text have no order/],
    ['form.name + 1', 'text', /do not go together/],
    ['if form.name then 1 else 2', 'number', /yes or no is needed/],
    ['form.cores = "4"', 'boolean', /are compared/],
    ['upper case(form.cores)', 'text', /a text is needed and a number is given \(upper case\)/],
    ['matches(form.name, "(")', 'boolean', /not a pattern/],
    ['sum(for a in 1..1000, b in 1..1000 return a * b)', 'number', /list grew over 10,000/],
    ['sum(for x in 1..9000 return count(for y in 1..9000 return y))', 'number', /more than 100,000 steps/],
    ['count(for i in 1..1000000000 return 1)', 'number', /list grew|steps/],
    ['10 ** 100000', 'number', /gave no value/],
    ['string join(for a in 1..9000 return "hello hello hello", "")', 'text', /text grew/],
    ['date("2026-02-30")', 'date', /gave no value/],
    ['date("9999-01-01")', 'date', /gave no value/],
    ['duration("P2W")', 'text', /gave no value/],
    ['"a" + "\\u0000"', 'text', /not a text/],
  ])('a mistake is told and chooses nothing: %s', (feel, type, sentence) => expect(result(feel, type)).toMatch(sentence));

  it('a pattern that makes other machines go back and forth costs no more than its text', () => {
    places['form.long'] = `${'a'.repeat(4000)}!`;
    // With going back it would double for each letter and never come to its end.
    expect(result('matches(form.long, "^(a+)+$")', 'boolean')).toBe(false);
  });

  it('gives what an independent interpreter gives (feelin), where numbers are whole and no mistake is made', () => {
    const number = fc.letrec<{ n: string; b: string; l: string }>((tie) => ({
      n: fc.oneof(
        { maxDepth: 4, depthSize: 'small' },
        fc.integer({ min: 0, max: 30 }).map(String),
        fc.constantFrom('form.cores', 'form.days', 'count(form.kit)'),
        fc.tuple(tie('n'), fc.constantFrom('+', '-', '*'), tie('n')).map(([a, op, b]) => `(${a} ${op} ${b})`),
        fc.tuple(tie('b'), tie('n'), tie('n')).map(([c, a, b]) => `(if ${c} then ${a} else ${b})`),
        fc.tuple(fc.constantFrom('sum', 'min', 'max', 'count'), tie('l')).map(([f, l]) => `${f}(${l})`),
        tie('n').map((a) => `abs(${a})`),
      ),
      b: fc.oneof(
        { maxDepth: 3, depthSize: 'small' },
        fc.tuple(tie('n'), fc.constantFrom('<', '<=', '>', '>=', '=', '!='), tie('n')).map(([a, op, b]) => `(${a} ${op} ${b})`),
        fc.tuple(tie('b'), fc.constantFrom('and', 'or'), tie('b')).map(([a, op, b]) => `(${a} ${op} ${b})`),
        tie('b').map((a) => `not(${a})`),
        fc.tuple(fc.constantFrom('some', 'every'), tie('l'), tie('n')).map(([q, l, k]) => `(${q} x in ${l} satisfies x > ${k})`),
        fc.constantFrom('list contains(form.kit, "laptop")', 'form.name = "Tuva"', 'starts with(form.name, "X")'),
      ),
      l: fc.oneof(
        { maxDepth: 2, depthSize: 'small' },
        fc.array(tie('n'), { minLength: 1, maxLength: 3 }).map((all) => `[${all.join(', ')}]`),
        fc.tuple(tie('l'), tie('n')).map(([l, k]) => `(for x in ${l} return x + ${k})`),
        fc.tuple(tie('l'), tie('n')).map(([l, k]) => `append(${l}[item != ${k}], 1)`),
      ),
    })).n as fc.Arbitrary<string>;
    fc.assert(
      fc.property(number, (feel) => {
        const theirs = evaluate(feel, { form: { cores: 4, days: 10, kit: ['laptop', 'lifeVest'], name: 'Tuva' } }) as { value: unknown };
        expect(result(feel), feel).toBe((theirs.value as number) + 0);
      }),
      { numRuns: 400 },
    );
  });

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
