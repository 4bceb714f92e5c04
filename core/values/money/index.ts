import { z } from 'zod';
import { compareDecimals, decimalText } from '../number/decimal.ts';
import { numberFrom, numbersApart } from '../number/index.ts';
import type { Plain, Stretches, ValueRoom } from '../room.ts';

/** A decimal amount, exact and with the digits it was given, in a currency (ISO 4217, three letters). */
export const Money = z.object({
  amount: z.string().regex(/^-?\d{1,18}(\.\d{1,6})?$/, 'Write an amount such as 1250.50.'),
  currency: z.string().regex(/^[A-Z]{3}$/, 'A currency is three capital letters.'),
});
export type Money = z.infer<typeof Money>;

/** Whether a value is an amount of money. */
export const isMoney = (v: unknown): v is Money => typeof v === 'object' && v !== null && 'amount' in v;

/** Which is less; amounts in different currencies cannot be told apart, and have no order. */
const order = (a: Money, b: Money): number | null =>
  a.currency === b.currency ? compareDecimals(decimalText(a.amount) ?? a.amount, decimalText(b.amount) ?? b.amount) : null;

/** The room of this type; `room.ts` says what each member means. */
export const money: ValueRoom<Money> = {
  words: 'sum of money',
  must: 'must be an amount and a currency such as 1250.50 EUR',
  schema: Money,
  is: isMoney,
  order,
  say: (v) => `${v.amount.replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, ' ')} ${v.currency}`,
  typed: (text) => {
    const m = /^(-?[\d\s.]+)\s*([A-Za-z]{3})$/.exec(text.trim());
    const read = m && Money.safeParse({ amount: m[1]!.replace(/\s/g, ''), currency: m[2]!.toUpperCase() });
    return read?.success ? read.data : undefined;
  },
  plain: (v) => ({ amount: v.amount, currency: v.currency }),
  fromPlain: (plain: Plain) => {
    const read = Money.safeParse(plain);
    return read.success ? read.data : undefined;
  },
  expression: (v) => ({ named: { amount: numberFrom(v.amount) ?? null, currency: v.currency } }),
  parts: ['amount', 'currency'],
  feelOrder: (ref, operator, v) => `(if ${ref}.currency = ${JSON.stringify(v.currency)} then ${ref}.amount ${operator} ${v.amount} else null)`,
  json: {
    type: 'object',
    properties: { amount: { type: 'string', pattern: '^-?\\d{1,18}(\\.\\d{1,6})?$' }, currency: { type: 'string', pattern: '^[A-Z]{3}$' } },
    required: ['amount', 'currency'],
    additionalProperties: false,
  },
  stretches,
};

/** Of sums in one currency one of each stretch, as of numbers; where currencies differ they cannot be looked through. */
function stretches({ values, ordered, several }: Stretches): Money[] | undefined {
  const stated = [...values, ...ordered].filter(isMoney);
  const { currency } = stated[0] ?? { currency: 'XXX' };
  if (stated.some((m) => m.currency !== currency)) return undefined;
  const amounts = stated.map((m) => Number(m.amount));
  if (amounts.some((n) => Math.abs(n) > 1e9)) return undefined;
  const found = numbersApart({ values: amounts, ordered: [], several });
  // Another currency: no order holds, and it is none of those stated.
  return [...found.map((n) => ({ amount: n.toFixed(6), currency })), { amount: '1', currency: currency === 'XTS' ? 'XXX' : 'XTS' }];
}
