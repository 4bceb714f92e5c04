import fc from 'fast-check';
import type { AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .constantFrom(
      { feel: 'form.cores * 2', type: 'number' } as const,
      { feel: '0.1 + 0.2 + form.cores', type: 'number' } as const,
      { feel: 'if form.remote != null and form.remote then "away" else "here"', type: 'text' } as const,
      { feel: 'count(for c in form.crew return c) > 2', type: 'boolean' } as const,
      { feel: 'form.cores / 3', type: 'number' } as const,
      { feel: '{amount: form.price.amount * form.cores, currency: form.price.currency}', type: 'money' } as const,
      { feel: 'form.machine.processors * form.cores', type: 'number' } as const,
      { feel: 'if form.machine.daily = null then 0 else form.machine.daily.amount', type: 'number' } as const,
      { feel: 'date(form.from) + duration("P1D")', type: 'date' } as const,
    )
    .map((w) => (id: string) => step('workOut', id, w));
