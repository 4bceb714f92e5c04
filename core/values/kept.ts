import { z } from 'zod';
import { toldApart, type NamedKind, type Plain, type ValueRoom } from './room.ts';

/** What names a thing that is kept: letters, digits and a few marks, as the identifiers of the database and of the tests have them. */
export const Key = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_.:~#/-]{0,199}$/, 'This is not an identifier.');

/** A value that is the id of something kept elsewhere, under a mark of its kind: a renamed person stays one person. */
type Kept<K extends NamedKind> = Record<K, string>;

/** The room of what is held by its id. `gone`: what is said of one that is not known any more. */
export function keptRoom<K extends NamedKind>(kind: K, words: string, gone: string): ValueRoom<Kept<K>> {
  const of = (id: string) => ({ [kind]: id }) as Kept<K>;
  const is = (v: unknown): v is Kept<K> => typeof v === 'object' && v !== null && kind in v;
  return {
    words,
    must: `must be a ${words}`,
    schema: z.object({ [kind]: Key }) as unknown as z.ZodType<Kept<K>>,
    is,
    say: (v, names) => names(kind, v[kind]) ?? gone,
    typed: (text) => (Key.safeParse(text).success ? of(text) : undefined),
    plain: (v) => v[kind],
    // Systems may answer with our mark or without.
    fromPlain: (plain: Plain) => (typeof plain === 'string' ? of(plain) : is(plain) ? plain : undefined),
    json: { type: 'string', minLength: 1, maxLength: 200 },
    named: (v) => ({ kind, id: v[kind] }),
    stretches: ({ values, ordered }) =>
      toldApart([...values, ...ordered].filter(is), (a, b) => a[kind] === b[kind], [of('another'), of('yet another')]),
  };
}
