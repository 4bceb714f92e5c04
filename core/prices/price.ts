import Decimal from 'decimal.js';
import { compile } from '../conditions/index.ts';
import { digitsOf, isEmpty, isMoney, isNumber, type Money, type Value } from '../values/index.ts';
import { terms, type PriceLine, type Term } from './line.ts';

/** What one line comes to. */
export interface LinePrice {
  id: string;
  label: string;
  sum: Money;
  per: Term;
}

/** What present answers cost: the lines that count, what they come to by term and currency, and the lines that still want an answer. */
export interface Price {
  lines: LinePrice[];
  totals: { sum: Money; per: Term }[];
  open: string[];
}

/** Sums have at most 18 digits before the point and 6 behind it (`Money`); products are exact, and rounded half up to 6 only then. */
const Exact = Decimal.clone({ precision: 60, toExpNeg: -60, toExpPos: 60 });
const asMoney = (amount: Decimal, currency: string): Money | undefined => {
  const rounded = amount.toDecimalPlaces(6, Decimal.ROUND_HALF_UP);
  if (rounded.abs().gte('1e18')) return undefined;
  // An amount has two digits behind its point, or as many as it needs.
  return { amount: rounded.decimalPlaces() < 2 ? rounded.toFixed(2) : rounded.toFixed(), currency };
};

/** What answers cost, by the lines of an item; `read` gives the value at a place, undefined or null where it has none yet. */
export function priceOf(lines: readonly PriceLine[], read: (ref: string) => Value | undefined): Price {
  const price: Price = { lines: [], totals: [], open: [] };
  for (const { id, label, amount, times = [], per, when } of lines) {
    if (!amount || (when && !compile(when)(read))) continue;
    const each = 'ref' in amount ? read(amount.ref) : amount.literal;
    const numbers = times.map((t) => read(t.ref));
    if (!isMoney(each) || numbers.some((n) => isEmpty(n) || !isNumber(n))) {
      price.open.push(label);
      continue;
    }
    const product = numbers.reduce((sum: Decimal, n) => sum.times(digitsOf(n as Parameters<typeof digitsOf>[0])), new Exact(each.amount));
    const sum = asMoney(product, each.currency);
    if (!sum) {
      price.open.push(label);
      continue;
    }
    price.lines.push({ id, label, sum, per });
  }
  return { ...price, totals: totalsOf(price.lines) };
}

/** What sums come to by term and currency: once before by the day before by the month. */
export function totalsOf(sums: readonly { sum: Money; per: Term }[]): Price['totals'] {
  const totals = new Map<string, { amount: Decimal; currency: string; per: Term }>();
  for (const { sum, per } of sums) {
    const key = `${per} ${sum.currency}`;
    totals.set(key, { amount: (totals.get(key)?.amount ?? new Exact(0)).plus(sum.amount), currency: sum.currency, per });
  }
  return (Object.keys(terms) as Term[]).flatMap((per) =>
    [...totals.values()].flatMap((total) => {
      const sum = total.per === per ? asMoney(total.amount, total.currency) : undefined;
      return sum ? [{ sum, per }] : [];
    }),
  );
}
