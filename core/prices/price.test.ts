import Decimal from 'decimal.js';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Value } from '../values/index.ts';
import { priceOf, referencesOfPrice, type PriceLine } from './index.ts';

const read = (values: Record<string, Value>) => (ref: string) => values[ref];
const eur = (amount: string) => ({ amount, currency: 'EUR' });
const lines: PriceLine[] = [
  { id: 'a', label: 'Setting up', amount: { literal: eur('120') }, per: 'once' },
  { id: 'b', label: 'Machine', amount: { ref: 'form.machine.daily' }, times: [{ ref: 'form.many' }], per: 'day' },
  {
    id: 'c',
    label: 'Watched at night',
    amount: { literal: eur('0.10') },
    times: [{ ref: 'form.many' }, { ref: 'form.nights' }],
    per: 'day',
    when: { compare: 'is', left: { ref: 'form.watch' }, right: { literal: true } },
  },
  { id: 'd', label: 'Licence', amount: { literal: { amount: '3.5', currency: 'NOK' } }, per: 'month' },
];

describe('what answers cost', () => {
  it('adds up by term and currency, exactly', () => {
    const price = priceOf(lines, read({ 'form.machine.daily': eur('12.50'), 'form.many': 3, 'form.nights': 2, 'form.watch': true }));
    expect(price.lines.map((l) => [l.label, l.sum.amount, l.per])).toEqual([
      ['Setting up', '120.00', 'once'],
      ['Machine', '37.50', 'day'],
      ['Watched at night', '0.60', 'day'],
      ['Licence', '3.50', 'month'],
    ]);
    expect(price.totals).toEqual([
      { sum: eur('120.00'), per: 'once' },
      { sum: eur('38.10'), per: 'day' },
      { sum: { amount: '3.50', currency: 'NOK' }, per: 'month' },
    ]);
    expect(price.open).toEqual([]);
  });

  it('leaves out what does not count, and names what wants an answer', () => {
    const price = priceOf(lines, read({ 'form.many': 3, 'form.watch': false }));
    expect(price.lines.map((l) => l.id)).toEqual(['a', 'd']);
    expect(price.open).toEqual(['Machine']);
    expect(referencesOfPrice(lines[2]!)).toEqual(['form.many', 'form.nights', 'form.watch']);
  });

  it('is what decimals come to, to the sixth digit behind the point (decimal.js at 60 digits)', () => {
    const Exact = Decimal.clone({ precision: 120 });
    const amount = fc.stringMatching(/^\d{1,9}(\.\d{1,6})?$/);
    fc.assert(
      fc.property(fc.array(fc.tuple(amount, fc.integer({ min: 0, max: 1000 })), { minLength: 1, maxLength: 6 }), (all) => {
        const given = all.map(([sum], i): PriceLine => ({
          id: `l${i}`,
          label: 'x',
          amount: { literal: eur(sum) },
          times: [{ ref: `${i}` }],
          per: 'once',
        }));
        const price = priceOf(given, (ref) => all[Number(ref)]![1]);
        const each = all.map(([sum, n]) => new Exact(sum).times(n).toDecimalPlaces(6, Decimal.ROUND_HALF_UP));
        expect(new Exact(price.totals[0]!.sum.amount).eq(each.reduce((a, b) => a.plus(b)))).toBe(true);
      }),
    );
  });

  it('is not told where a sum has more digits than a sum can have', () => {
    const huge: PriceLine = { id: 'h', label: 'Huge', amount: { literal: eur('999999999999999999') }, times: [{ ref: 'n' }], per: 'once' };
    expect(priceOf([huge], () => 1000)).toEqual({ lines: [], totals: [], open: ['Huge'] });
  });
});
