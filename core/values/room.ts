import { z } from 'zod';
import { text } from '../boundary/index.ts';
import type { NumberValue } from './number/index.ts';

/** What is kept by an id and shown by a name that is looked up when it is shown; of a table row, `rowId` is its id. */
export type NamedKind = 'person' | 'group' | 'location' | 'team' | 'row' | 'file' | 'holding';

/** Of these, what is found by its name alone: a row is found within its table, a file where it stands, a holding with whoever has it. */
export type CalledKind = Exclude<NamedKind, 'row' | 'file' | 'holding'>;

/** The name of something kept by its id; undefined where it is not known. */
export type ValueNames = (kind: NamedKind, id: string) => string | undefined;

/** A value as JSON without our marks: what systems are sent and give. */
export type Plain = string | number | boolean | null | Plain[] | { [key: string]: Plain };
/** The same, from outside: texts that can be kept, lists of up to a thousand. */
export const Plain: z.ZodType<Plain> = z.lazy(() =>
  z.union([text(20_000), z.number(), z.boolean(), z.null(), z.array(Plain).max(1000), z.record(z.string().max(200), Plain)]),
);

/** The same for expressions, whose numbers are decimals. */
export type Expressed = string | boolean | null | NumberValue | Expressed[] | { named: { [key: string]: Expressed } };

/** What two conditions can tell apart of a place: the values they state, which of those by their order, and how many places stand beside it. */
export interface Stretches {
  values: readonly unknown[];
  ordered: readonly unknown[];
  several: number;
  min?: number | undefined;
  max?: number | undefined;
}

/** The verbs of a comparison by order. */
export type OrderWords = Record<'less' | 'atMost' | 'more' | 'atLeast', string>;

/** What everything else knows of one type of value. A member left out has the meaning its line states. */
export interface ValueRoom<V> {
  /** As sentences name it: "needs a …". */
  words: string;
  /** The end of a sentence about what is none: "must be …". */
  must: string;
  /** Its shape and bounds. */
  schema: z.ZodType<V>;
  /** Whether a value that has passed `schema` of some type is one of this. */
  is: (v: unknown) => v is V;
  /** Whether two of them say the same. Left out: where neither comes first, or both name the same. */
  same?: (a: V, b: V) => boolean;
  /** Which comes first: below 0, 0 or above; null where that cannot be told of these two. Left out: there is no order. */
  order?: (a: V, b: V) => number | null;
  /** What coming before and after another of its type is called. Left out: less and more. */
  orderWords?: OrderWords;
  /** In words, for people. */
  say: (v: V, names: ValueNames, zone: string | undefined) => string;
  /** What a text somebody typed means; undefined where it is none of these. */
  typed: (text: string) => V | undefined;
  /** Without our marks, and back; undefined where it is none of these. Left out: it is plain itself. */
  plain?: (v: V) => Plain;
  fromPlain?: (plain: Plain) => V | undefined;
  /** As expressions read it, and how one that is ordered is written in FEEL. Left out: as `plain`, and as the standard does. */
  expression?: (v: V) => Expressed;
  /** What of it an expression can name: `form.price.amount`. */
  parts?: readonly string[];
  feelOrder?: (ref: string, operator: string, v: V) => string;
  /** JSON Schema (2020-12) of what `plain` gives. */
  json: Readonly<Record<string, unknown>>;
  /** The values it is made of, by their names; what those say, name and are without marks is its own. Left out: it is one. */
  inside?: (v: V) => Readonly<Record<string, unknown>>;
  /** What it names by an id. Left out: nothing. */
  named?: (v: V) => { kind: NamedKind; id: string };
  /** One value for each stretch that conditions can tell apart; undefined where they cannot be looked through. Left out: they cannot. */
  stretches?: (of: Stretches) => V[] | undefined;
}

/** Of values that are only told apart: those stated, and two others. */
export const toldApart = <V>(stated: V[], same: (a: V, b: V) => boolean, others: [V, V]): V[] => [
  ...stated.filter((v, i) => stated.findIndex((w) => same(v, w)) === i),
  ...others,
];
