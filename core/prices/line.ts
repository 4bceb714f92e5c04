import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Condition, conditionReferences } from '../conditions/index.ts';
import { Id, Operand, Reference } from '../values/index.ts';

/** How often a price is paid. */
export const terms = { once: 'once', day: 'per day', month: 'per month' } as const;
/** One of them. */
export type Term = keyof typeof terms;

/**
 * A line of what an item costs: a stated sum or one from the answers (of a table row, say), as often as its numbers say, while its
 * condition holds.
 */
export const PriceLine = z.object({
  id: Id,
  label: line(120),
  amount: Operand.optional(),
  times: z.array(Reference).max(3).optional(),
  per: z.enum(['once', 'day', 'month']),
  when: Condition.optional(),
});
export type PriceLine = z.infer<typeof PriceLine>;

/** The values that a line of a price reads. */
export const referencesOfPrice = (l: PriceLine): string[] => [
  ...(l.amount && 'ref' in l.amount ? [l.amount.ref] : []),
  ...(l.times ?? []).map((t) => t.ref),
  ...(l.when ? conditionReferences(l.when) : []),
];
