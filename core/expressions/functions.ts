import Decimal from 'decimal.js';
import type { DateTime } from 'luxon';
import { RE2JS } from 're2js';
import type { FunctionName } from './function-names.ts';
import { compare, dateOf, durationOf, instantOf, kindOf, kindWords, Num, same, stringOf, timeOf, Unworkable, type Feel } from './feel-value.ts';

/** What a function may spend: it says beforehand how much work its argument is. */
export type Spend = (steps: number) => void;
type Act = (args: Feel[], spend: Spend) => Feel;
interface Definition {
  /** The names of its parameters, for calls by name. Undefined: a list, or any number of values. */
  takes: string[] | undefined;
  act: Act;
}

const wrong = (v: Feel, want: string): Unworkable => new Unworkable(`a ${want} is needed and a ${kindWords[kindOf(v)]} is given`);
const text = (v: Feel): string => {
  if (typeof v !== 'string') throw wrong(v, 'text');
  return v;
};
const number = (v: Feel): Decimal => {
  if (!(v instanceof Decimal)) throw wrong(v, 'number');
  return v;
};
const whole = (v: Feel): number => {
  const n = number(v);
  if (!n.isInteger() || n.abs().greaterThan(1e9)) throw new Unworkable(`a whole number is needed and ${n.toString()} is given`);
  return n.toNumber();
};
const list = (v: Feel): Feel[] => (Array.isArray(v) ? v : [v]);
const n = (x: number | Decimal): Feel => new Num(x);
/** Characters are code points, as in the standard. */
const chars = (s: string) => [...s];

/** A function of fixed parameters; nothing given for any of them gives nothing. */
const of = (takes: string, act: Act): Definition => ({
  takes: takes.split(', '),
  act: (args, spend) => (args.some((a) => a === null) ? null : act(args, spend)),
});
/** A function over a list, given as one or as its values. */
const over = (act: (items: Feel[], spend: Spend) => Feel): Definition => ({
  takes: undefined,
  act: (args, spend) => {
    const items = args.length === 1 ? list(args[0]!) : args;
    spend(items.length);
    return act(items, spend);
  },
});
const numbers = (act: (all: Decimal[]) => Feel) => over((items) => (items.length === 0 || items.includes(null) ? null : act(items.map(number))));

/** Patterns are matched in time that grows with the text alone (RE2), whatever the pattern. */
function pattern(source: string, flags: string): RE2JS {
  let f = 0;
  for (const c of flags) {
    const flag = { i: RE2JS.CASE_INSENSITIVE, s: RE2JS.DOTALL, m: RE2JS.MULTILINE }[c];
    if (flag === undefined) throw new Unworkable(`“${c}” is not a flag of a pattern`);
    f |= flag;
  }
  try {
    return RE2JS.compile(source, f);
  } catch {
    throw new Unworkable(`“${source.slice(0, 60)}” is not a pattern`);
  }
}
const matching = (input: string, source: string, flags: Feel | undefined, spend: Spend) => {
  spend(input.length / 10 + source.length);
  return pattern(source, flags === undefined ? '' : text(flags)).matcher(input);
};

function rounded(mode: Decimal.Rounding): Act {
  return ([v, scale]) => {
    const places = scale === undefined ? 0 : whole(scale);
    if (Math.abs(places) > 6000) return null;
    const shift = new Num(10).pow(places);
    return new Num(number(v!).times(shift).toDecimalPlaces(0, mode)).div(shift);
  };
}

function position(items: unknown[], at: number): number | undefined {
  const i = at > 0 ? at - 1 : items.length + at;
  return at !== 0 && i >= 0 && i < items.length ? i : undefined;
}
/** A piece by start (from 1, or from the end) and length. */
function piece<T>(items: T[], start: number, length: number | undefined): T[] | undefined {
  const from = position(items, start);
  if (from === undefined) return undefined;
  return length === undefined ? items.slice(from) : items.slice(from, from + Math.max(0, length));
}

const calendar = (v: Feel): DateTime => {
  if (typeof v === 'object' && v !== null && 'feel' in v && 'at' in v) return v.at;
  throw wrong(v, 'date');
};

/** The functions of the standard that there are here (DMN 1.3, 10.3.4); `now` and `today` are not, since a replay has to give the same. */
const definitions: Record<FunctionName | '@', Definition> = {
  '@': of('text', ([s]) => durationOf(text(s!)) ?? dateOf(text(s!)) ?? timeOf(text(s!)) ?? instantOf(text(s!))),
  date: {
    takes: undefined,
    act: (args) => {
      if (args.includes(null)) return null;
      if (args.length === 3) {
        const [y, m, d] = args.map(whole) as [number, number, number];
        return dateOf(`${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`);
      }
      const [from] = args;
      if (typeof from === 'string') return dateOf(from) ?? dateOf(from.slice(0, 10));
      return { feel: 'date', at: calendar(from!).setZone('utc', { keepLocalTime: true }).startOf('day') };
    },
  },
  'date and time': of('from', ([from, time]) => {
    if (typeof from === 'string') return instantOf(from);
    const at = calendar(from!);
    if (time === undefined) return { feel: 'instant', at };
    if (typeof time === 'object' && time !== null && 'feel' in time && time.feel === 'time')
      return { feel: 'instant', at: at.setZone('utc', { keepLocalTime: true }).startOf('day').plus(time.ms) };
    throw wrong(time, 'time');
  }),
  time: of('from', ([from]) => {
    if (typeof from === 'string') return timeOf(from);
    const at = calendar(from!);
    return { feel: 'time', ms: at.diff(at.startOf('day')).toMillis() };
  }),
  duration: of('from', ([from]) => durationOf(text(from!))),
  'years and months duration': of('from, to', ([from, to]) => {
    const [a, b] = [calendar(from!), calendar(to!)];
    const months = (b.year - a.year) * 12 + b.month - a.month;
    const early = months > 0 && b.day < a.day ? 1 : months < 0 && b.day > a.day ? -1 : 0;
    return { feel: 'months', months: months - early };
  }),
  'day of week': of('date', ([d]) => ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'][calendar(d!).weekday - 1]!),
  'day of year': of('date', ([d]) => n(calendar(d!).ordinal)),
  'week of year': of('date', ([d]) => n(calendar(d!).weekNumber)),
  'month of year': of(
    'date',
    ([d]) => 'January February March April May June July August September October November December'.split(' ')[calendar(d!).month - 1]!,
  ),

  number: of('from, grouping separator, decimal separator', ([from, group, point]) => {
    let s = text(from!);
    if (group !== undefined) s = s.replaceAll(text(group), '');
    if (point !== undefined) s = s.replace(text(point), '.');
    return /^-?(\d{1,60}\.?\d{0,60}|\.\d{1,60})([eE][+-]?\d{1,4})?$/.test(s) ? new Num(s) : null;
  }),
  string: of('from', ([v]) => stringOf(v!)),
  not: { takes: ['negand'], act: ([v]) => (typeof v === 'boolean' ? !v : null) },
  substring: of('string, start position, length', ([s, start, length]) => {
    const cut = piece(chars(text(s!)), whole(start!), length === undefined ? undefined : whole(length));
    return cut ? cut.join('') : null;
  }),
  'string length': of('string', ([s]) => n(chars(text(s!)).length)),
  'upper case': of('string', ([s]) => text(s!).toUpperCase()),
  'lower case': of('string', ([s]) => text(s!).toLowerCase()),
  'substring before': of('string, match', ([s, m]) => text(s!).slice(0, Math.max(0, text(s!).indexOf(text(m!))))),
  'substring after': of('string, match', ([s, m]) =>
    text(s!).includes(text(m!)) ? text(s!).slice(text(s!).indexOf(text(m!)) + text(m!).length) : '',
  ),
  contains: of('string, match', ([s, m]) => text(s!).includes(text(m!))),
  'starts with': of('string, match', ([s, m]) => text(s!).startsWith(text(m!))),
  'ends with': of('string, match', ([s, m]) => text(s!).endsWith(text(m!))),
  matches: of('input, pattern, flags', ([s, p, flags], spend) => matching(text(s!), text(p!), flags, spend).find()),
  replace: of('input, pattern, replacement, flags', ([s, p, r, flags], spend) => matching(text(s!), text(p!), flags, spend).replaceAll(text(r!))),
  split: of('string, delimiter', ([s, d], spend) => {
    spend(text(s!).length);
    return pattern(text(d!), '').split(text(s!), -1);
  }),
  'string join': of('list, delimiter', ([items, d]) =>
    list(items!)
      .filter((x) => x !== null)
      .map(text)
      .join(d === undefined ? '' : text(d)),
  ),

  'list contains': { takes: ['list', 'element'], act: ([items, x]) => (items === null ? null : list(items!).some((y) => same(x!, y) === true)) },
  count: { takes: ['list'], act: ([items]) => (items === null ? null : n(list(items!).length)) },
  min: over((items) => best(items, -1)),
  max: over((items) => best(items, 1)),
  sum: numbers((all) => Num.sum(...all)),
  product: numbers((all) => all.reduce((a, b) => a.times(b))),
  mean: numbers((all) => Num.sum(...all).div(all.length)),
  median: numbers((all) => {
    const sorted = all.toSorted((a, b) => a.comparedTo(b));
    const middle = Math.floor(sorted.length / 2);
    return sorted.length % 2 ? sorted[middle]! : sorted[middle - 1]!.plus(sorted[middle]!).div(2);
  }),
  stddev: numbers((all) => {
    if (all.length < 2) return null;
    const mean = Num.sum(...all).div(all.length);
    return Num.sum(...all.map((x) => x.minus(mean).pow(2)))
      .div(all.length - 1)
      .sqrt();
  }),
  mode: numbers((all) => {
    const counts = new Map<string, number>();
    for (const x of all) counts.set(x.toString(), (counts.get(x.toString()) ?? 0) + 1);
    const most = Math.max(...counts.values());
    return [...counts]
      .filter(([, c]) => c === most)
      .map(([x]) => new Num(x))
      .sort((a, b) => a.comparedTo(b));
  }),
  all: over((items) => (items.includes(false) ? false : items.every((x) => x === true) ? true : null)),
  any: over((items) => (items.includes(true) ? true : items.every((x) => x === false) ? false : null)),
  sublist: of(
    'list, start position, length',
    ([items, start, length]) => piece(list(items!), whole(start!), length === undefined ? undefined : whole(length)) ?? null,
  ),
  append: { takes: undefined, act: ([items, ...more]) => (items === null ? null : [...list(items!), ...more]) },
  concatenate: { takes: undefined, act: (lists) => lists.flatMap(list) },
  'insert before': { takes: ['list', 'position', 'newItem'], act: ([items, at, x]) => inserted(list(items!), whole(at!), x!) },
  remove: of('list, position', ([items, at]) => {
    const i = position(list(items!), whole(at!));
    return i === undefined ? null : list(items!).toSpliced(i, 1);
  }),
  reverse: of('list', ([items]) => list(items!).toReversed()),
  'index of': {
    takes: ['list', 'match'],
    act: ([items, x]) => (items === null ? null : list(items!).flatMap((y, i) => (same(x!, y) === true ? [n(i + 1)] : []))),
  },
  union: { takes: undefined, act: (lists, spend) => distinct(lists.flatMap(list), spend) },
  'distinct values': of('list', ([items], spend) => distinct(list(items!), spend)),
  flatten: of('list', ([items]) => flattened(items!)),
  sort: of('list, precedes', ([items, precedes], spend) => {
    const all = list(items!);
    spend(all.length * 10);
    if (precedes === undefined) return all.toSorted((a, b) => compare(a, b) ?? 0);
    if (typeof precedes !== 'object' || precedes === null || !('feel' in precedes) || precedes.feel !== 'function') throw wrong(precedes, 'function');
    return all.toSorted((a, b) => (precedes.call([a, b]) === true ? -1 : precedes.call([b, a]) === true ? 1 : 0));
  }),

  decimal: of('n, scale', (args) => rounded(Decimal.ROUND_HALF_EVEN)(args, () => undefined)),
  floor: of('n, scale', (args) => rounded(Decimal.ROUND_FLOOR)(args, () => undefined)),
  ceiling: of('n, scale', (args) => rounded(Decimal.ROUND_CEIL)(args, () => undefined)),
  'round up': of('n, scale', (args) => rounded(Decimal.ROUND_UP)(args, () => undefined)),
  'round down': of('n, scale', (args) => rounded(Decimal.ROUND_DOWN)(args, () => undefined)),
  'round half up': of('n, scale', (args) => rounded(Decimal.ROUND_HALF_UP)(args, () => undefined)),
  'round half down': of('n, scale', (args) => rounded(Decimal.ROUND_HALF_DOWN)(args, () => undefined)),
  abs: of('n', ([v]) => {
    if (typeof v === 'object' && v !== null && 'feel' in v && v.feel === 'days') return { feel: 'days', ms: Math.abs(v.ms) };
    if (typeof v === 'object' && v !== null && 'feel' in v && v.feel === 'months') return { feel: 'months', months: Math.abs(v.months) };
    return number(v!).abs();
  }),
  modulo: of('dividend, divisor', ([a, b]) => {
    const [x, y] = [number(a!), number(b!)];
    // The sign of the divisor (DMN 1.3, table 77): x - y * floor(x / y).
    return y.isZero() ? null : x.minus(y.times(x.div(y).floor()));
  }),
  sqrt: of('number', ([v]) => (number(v!).isNegative() ? null : number(v!).sqrt())),
  log: of('number', ([v]) => (number(v!).greaterThan(0) ? number(v!).ln() : null)),
  exp: of('number', ([v]) => (number(v!).abs().greaterThan(10_000) ? null : number(v!).exp())),
  odd: of('number', ([v]) => number(v!).modulo(2).abs().equals(1)),
  even: of('number', ([v]) => number(v!).modulo(2).isZero()),
  'get value': of('m, key', ([m, key]) => {
    if (!(m instanceof Map)) throw wrong(m!, 'group of named values');
    return m.get(text(key!)) ?? null;
  }),
  'get entries': of('m', ([m]) => {
    if (!(m instanceof Map)) throw wrong(m!, 'group of named values');
    return [...m].map(
      ([key, value]) =>
        new Map<string, Feel>([
          ['key', key],
          ['value', value],
        ]),
    );
  }),
};

const flattened = (v: Feel): Feel[] => (Array.isArray(v) ? v.flatMap(flattened) : [v]);
function best(items: Feel[], sign: number): Feel {
  if (items.length === 0 || items.includes(null)) return null;
  return items.reduce((a, b) => {
    const order = compare(b, a);
    if (order === undefined) throw wrong(b, kindWords[kindOf(a)]);
    return order * sign > 0 ? b : a;
  });
}
function inserted(items: Feel[], at: number, x: Feel): Feel {
  const i = position(items, at);
  return i === undefined ? null : items.toSpliced(i, 0, x);
}
function distinct(items: Feel[], spend: Spend): Feel[] {
  const found: Feel[] = [];
  for (const x of items) {
    spend(found.length / 10 + 1);
    if (!found.some((y) => same(x, y) === true)) found.push(x);
  }
  return found;
}

/** The built-in functions by name (DMN 1.3, 10.3.4). */
export const functions: ReadonlyMap<string, Definition> = new Map(Object.entries(definitions));
