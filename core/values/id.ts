import { z } from 'zod';
import { taken } from '../boundary/index.ts';

/** Words that may not name a field or step, because FEEL reads them as syntax (DMN 1.3, clause 10.3.1.2). */
const reserved = new Set(
  'true false null and or not in if then else for return some every satisfies between function external instance of at'.split(' '),
);

/** A short id usable in a FEEL path: a letter, then letters, digits, underscores. */
export const Id = z
  .string()
  .regex(/^[a-z][A-Za-z0-9_]{0,39}$/, 'An id begins with a small letter and has letters and digits only.')
  .refine((id) => !reserved.has(id), 'This word is kept for the expression language.')
  .refine((id) => !taken.has(id), 'This word means something to every object; choose another.');

/** Makes an id from a label, one that `used` does not hold yet. */
export function idFrom(label: string, used: ReadonlySet<string>): string {
  const words = label
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9 ]/g, '')
    .trim()
    .split(/\s+/)
    .filter(Boolean)
    .slice(0, 4);
  const camel = words.map((w, i) => (i === 0 ? w.toLowerCase() : w[0]!.toUpperCase() + w.slice(1).toLowerCase())).join('');
  const base = /^[a-z]/.test(camel) && !reserved.has(camel) ? camel.slice(0, 30) : `s${camel}`.slice(0, 30);
  for (let n = 1; ; n++) {
    const id = n === 1 ? base : `${base}${n}`;
    if (!used.has(id) && Id.safeParse(id).success) return id;
  }
}
