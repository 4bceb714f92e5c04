import { z } from 'zod';
import type { Plain, Stretches, ValueRoom } from '../room.ts';
import { compareDecimals, decimalText } from './decimal.ts';

/**
 * A number keeps every decimal it was given. Nearly all are JSON numbers, whose shortest writing is the decimal; one that has
 * more digits than those can tell apart is kept as its decimal text.
 */
export const NumberValue = z.union([z.number(), z.object({ decimal: z.string().refine((s) => decimalText(s) === s, 'This is not a decimal.') })]);
export type NumberValue = z.infer<typeof NumberValue>;

/** Whether a value is a number. */
export const isNumber = (v: unknown): v is NumberValue =>
  (typeof v === 'number' && Number.isFinite(v)) || (typeof v === 'object' && v !== null && 'decimal' in v);

/** The decimal text of a number, exact. */
export const digitsOf = (v: NumberValue): string => (typeof v === 'number' ? (decimalText(String(v)) ?? String(v)) : v.decimal);

/** The number a decimal text says, exact; undefined where it says none or has more than 34 digits. */
export function numberFrom(text: string): NumberValue | undefined {
  const decimal = decimalText(text);
  if (decimal === undefined) return undefined;
  const near = Number(decimal);
  return decimalText(String(near)) === decimal ? near : { decimal };
}

/** Which of two numbers is less: below 0, 0 or above; exact. */
export const compareNumbers = (a: NumberValue, b: NumberValue): number =>
  typeof a === 'number' && typeof b === 'number' ? a - b : compareDecimals(digitsOf(a), digitsOf(b));

/** The room of this type; `room.ts` says what each member means. */
export const number: ValueRoom<NumberValue> = {
  words: 'number',
  must: 'must be a number',
  schema: NumberValue,
  is: isNumber,
  order: compareNumbers,
  say: digitsOf,
  typed: numberFrom,
  // Systems are sent a JSON number, the one nearest to it: more digits than that no two systems read alike (RFC 8259, 6).
  plain: (v) => (typeof v === 'number' ? v : Number(v.decimal)),
  fromPlain: (plain: Plain) => (typeof plain === 'number' && Number.isFinite(plain) ? plain : undefined),
  expression: (v) => v,
  json: { type: 'number' },
  stretches: numbersApart,
};

/** Of numbers one of each stretch between those stated, so many where places are compared with each other. */
export function numbersApart({ values, ordered, several, min, max }: Stretches): number[] {
  const points = [...new Set([...values, ...ordered].filter((v) => typeof v === 'number'))].sort((a, b) => a - b);
  const inside = (n: number) => (min === undefined || n >= min) && (max === undefined || n <= max);
  const found = new Set<number>(points);
  const low = points[0] ?? 0;
  const high = points.at(-1) ?? 0;
  for (let i = 1; i <= several; i++) {
    found.add(low - i).add(high + i);
    points.forEach((p, at) => {
      const next = points[at + 1];
      if (next !== undefined) found.add(p + ((next - p) * i) / (several + 1));
    });
  }
  return [...found].filter(inside).sort((a, b) => a - b);
}
