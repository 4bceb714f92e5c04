import Ajv from 'ajv/dist/2020.js';
import Decimal from 'decimal.js';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyDecimal, anyNamedLine, anyValue } from '../testing/any-value.ts';
import { compareDecimals, decimalText } from './number/decimal.ts';
import {
  areComparable,
  digitsOf,
  fromPlain,
  idsIn,
  isEmpty,
  isEntry,
  isNamed,
  isNumber,
  isOfType,
  isOrdered,
  jsonSchemaOf,
  mustBe,
  numberFrom,
  orderOf,
  plainOf,
  rowType,
  sameValue,
  shapeOf,
  typedAs,
  typeWords,
  Value,
  ValueType,
  valueWords,
  type NumberValue,
  type Single,
  type SingleType,
} from './index.ts';

const singles = ValueType.options.filter((t): t is SingleType => rowType(t) === undefined);
/** The types whose values are written as texts, so that one may be of several. */
const texts = singles.filter((t) => shapeOf(fc.sample(anyValue[t], { numRuns: 1, seed: 1 })[0]!) === 'text');
/** A number as JSON carries it. */
const nearest = (v: Single): Single => {
  if (isNumber(v)) return Number(digitsOf(v));
  if (!isEntry(v)) return v;
  return { entry: Object.fromEntries(Object.entries(v.entry).map(([name, x]) => [name, x === null ? null : (nearest(x) as typeof x)])) };
};
const Exact = Decimal.clone({ precision: 60, toExpNeg: -60, toExpPos: 60 });

describe.each(singles)('a value that is a %s', (type) => {
  const any = anyValue[type];
  it('is kept as it is, is of its type, and is the same as itself', () => {
    fc.assert(
      fc.property(any, (v) => {
        expect(Value.parse(JSON.parse(JSON.stringify(v)))).toEqual(v);
        expect([isOfType(v, type), sameValue(v, structuredClone(v)), areComparable(v, v), isEmpty(v)]).toEqual([true, true, true, false]);
        if (isOrdered(type)) expect(orderOf(v, v)).toBe(0);
        expect(idsIn(v)).toHaveLength(isNamed(type) ? 1 : 0);
      }),
    );
  });

  it('goes out without our marks as its JSON Schema says (ajv, an independent validator), and comes back the same', () => {
    const valid = new Ajv({ strict: false, validateFormats: false }).compile(jsonSchemaOf(type));
    fc.assert(
      fc.property(any, (v) => {
        const plain = JSON.parse(JSON.stringify(plainOf(v))) as never;
        expect(valid(plain), JSON.stringify(plain)).toBe(true);
        expect(sameValue(fromPlain(plain, type), nearest(v)), JSON.stringify(plain)).toBe(true);
      }),
    );
  });

  it('is of no type of another shape, and is not comparable with one', () => {
    fc.assert(
      fc.property(any, fc.constantFrom(...singles), (v, other) => {
        const like = shapeOf(v);
        fc.pre(other !== type && !(like === 'text' && texts.includes(other)));
        expect(isOfType(v, other)).toBe(false);
        expect(orderOf(v, fc.sample(anyValue[other], { numRuns: 1, seed: 1 })[0])).toBeNull();
      }),
    );
  });

  it('of several makes a list where there is a type for that; a list is none', () => {
    const list = ValueType.options.find((t) => rowType(t) === type);
    const valid = list && new Ajv({ strict: false, validateFormats: false }).compile(jsonSchemaOf(list));
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 4 }), (all) => {
        expect(isOfType(all, type)).toBe(false);
        if (!list || !valid) return;
        expect([isOfType(all, list), isOfType(all[0], list), sameValue(all, [...all])]).toEqual([true, false, true]);
        const plain = JSON.parse(JSON.stringify(plainOf(all))) as never;
        expect([valid(plain), sameValue(fromPlain(plain, list), all.map(nearest))]).toEqual([true, true]);
      }),
    );
  });

  it('has words, and what nobody typed is empty', () => {
    expect(typeWords[type]).toMatch(/^[a-z ]+$/);
    expect(mustBe(type)).toMatch(/^must be /);
    expect(typedAs('', type)).toBeNull();
  });
});

describe('decimals', () => {
  it('are kept and compared to the last digit (decimal.js, independent arithmetic)', () => {
    fc.assert(
      fc.property(anyDecimal, anyDecimal, (a, b) => {
        const [x, y] = [decimalText(a)!, decimalText(b)!];
        expect(new Exact(x).eq(new Exact(a))).toBe(true);
        expect(Math.sign(compareDecimals(x, y))).toBe(new Exact(a).comparedTo(new Exact(b)));
        const [n, m] = [numberFrom(a) as NumberValue, numberFrom(b) as NumberValue];
        expect(new Exact(digitsOf(n)).eq(new Exact(a))).toBe(true);
        expect(Math.sign(orderOf(n, m)!)).toBe(new Exact(a).comparedTo(new Exact(b)));
      }),
      { numRuns: 2000 },
    );
  });

  it.each([
    ['0.10', '0.1'],
    ['-0', '0'],
    ['1e3', '1000'],
    ['1.5e-3', '0.0015'],
    ['007', '7'],
    ['.5', '0.5'],
  ])('%s is %s', (given, kept) => expect(decimalText(given)).toBe(kept));

  it.each(['', '.', 'e5', '1e', '1,5', 'Infinity', '0x10', '1'.repeat(35), '1e300', '--1'])('“%s” is none', (text) =>
    expect(decimalText(text)).toBeUndefined(),
  );

  it('are JSON numbers unless those cannot tell them apart', () => {
    expect([numberFrom('0.1'), numberFrom('12'), numberFrom('9007199254740993')]).toEqual([0.1, 12, { decimal: '9007199254740993' }]);
    expect(sameValue(numberFrom('9007199254740993'), numberFrom('9007199254740992'))).toBe(false);
  });
});

describe('what somebody typed', () => {
  it.each<[SingleType, string, Single | undefined]>([
    ['number', '3.50', 3.5],
    ['number', 'three', undefined],
    ['boolean', 'false', false],
    ['boolean', 'no', undefined],
    ['date', '2026-02-29', undefined],
    ['money', '1 250.50 eur', { amount: '1250.50', currency: 'EUR' }],
    ['money', '12 EURO', undefined],
    ['money', '1.2.3 EUR', undefined],
    ['person', 'p-1', { person: 'p-1' }],
    ['team', 'no id!', undefined],
  ])('as a %s: “%s”', (type, text, value) => expect(typedAs(text, type)).toEqual(value));
});

describe('in words', () => {
  const names = (kind: string, id: string) => (id === 'x' ? `the ${kind} X` : undefined);
  it.each<[Value, string]>([
    [true, 'yes'],
    [{ decimal: '12345678901234567890.5' }, '12345678901234567890.5'],
    [{ amount: '1234567.8901', currency: 'NOK' }, '1 234 567.8901 NOK'],
    [{ location: 'x' }, 'the location X'],
    [{ team: 'gone' }, 'a team that does not exist any more'],
    [[{ person: 'x' }, { person: 'y' }], 'the person X, someone who is not known any more'],
    ['2026-03-02T09:30:00.000Z', '2 Mar 2026, 09:30 UTC'],
    ['2026-03-02', '2 Mar 2026'],
    ['2026-02-30', '2026-02-30'],
    [null, ''],
  ])('%j', (value, words) => expect(valueWords(value, names)).toBe(words));

  it('a moment is said in the zone of whoever reads it, on the day that it is there', () => {
    expect(valueWords('2026-03-02T23:30:00.000Z', names, [], [], 'Europe/Oslo')).toBe('3 Mar 2026, 00:30');
    expect(valueWords('2026-07-02T23:30:00+02:00', names, [], [], 'Atlantic/Faroe')).toBe('2 Jul 2026, 22:30');
    // Wherever it stands.
    const line = { entry: { at: '2026-10-25T00:30:00Z' } };
    expect(valueWords([line], names, [], [{ id: 'at', label: 'At' }], 'Europe/Oslo')).toBe('25 Oct 2026, 02:30');
  });
});

it('sums of different currencies have no order, and are not the same', () => {
  const [a, b] = [
    { amount: '1', currency: 'EUR' },
    { amount: '1.00', currency: 'NOK' },
  ];
  expect([orderOf(a, b), sameValue(a, b), sameValue(a, { ...a, amount: '1.00' })]).toEqual([null, false, true]);
});

describe('a line', () => {
  const line = { entry: { many: 2, what: 'sounder', by: { person: 'p1' } } };
  const names = (kind: string, id: string) => (kind === 'person' && id === 'p1' ? 'Tuva Fossness' : undefined);
  const columns = [{ id: 'what', options: [{ value: 'sounder', label: 'Echo sounder' }] }, { id: 'many' }, { id: 'by' }, { id: 'note' }];

  it('is said by its columns, in their order, with their choices; several are parted by semicolons, and what is empty by nothing', () => {
    expect(valueWords(line, names, undefined, columns)).toBe('Echo sounder, 2, Tuva Fossness');
    expect(valueWords([line, { entry: { what: 'gauge', many: null } }, { entry: {} }], names, undefined, columns)).toBe(
      'Echo sounder, 2, Tuva Fossness; gauge',
    );
    expect(valueWords({ entry: { what: 'gauge', far: false } }, names, undefined, [{ id: 'what' }, { id: 'far', label: 'Goes to sea' }])).toBe(
      'gauge, Goes to sea: no',
    );
    expect(valueWords(line, () => undefined)).toBe('2, sounder, someone who is not known any more');
  });
  it('names what its cells name, is the same by what they say, and goes out as an object of them', () => {
    fc.assert(
      fc.property(anyNamedLine, (v) => {
        const cells = isEntry(v) ? Object.values(v.entry) : [];
        expect(idsIn(v)).toEqual(cells.flatMap((c) => idsIn(c)));
        expect(Value.parse(JSON.parse(JSON.stringify([v])))).toEqual([v]);
        expect(plainOf(v)).toEqual(Object.fromEntries(Object.entries(isEntry(v) ? v.entry : {}).map(([k, c]) => [k, plainOf(c)])));
      }),
    );
    const { many, ...rest } = line.entry;
    expect([
      sameValue(line, { entry: { ...rest, many } }),
      sameValue(line, { entry: rest }),
      sameValue({ entry: { a: null } }, { entry: {} }),
    ]).toEqual([true, false, true]);
  });
  it('holds no line, no list, and no more than twenty cells', () => {
    for (const entry of [{ a: line }, { a: [1] }, { 'a b': 1 }, Object.fromEntries(Array.from({ length: 21 }, (_, i) => [`c${i}`, i]))])
      expect(Value.safeParse({ entry }).success).toBe(false);
  });
  it('is empty when nothing is in it; so is a list of such lines', () =>
    expect([isEmpty({ entry: {} }), isEmpty([{ entry: { a: ' ', b: null } }]), isEmpty([{ entry: { a: 0 } }])]).toEqual([true, true, false]));
});
