import {
  digitsOf,
  expressionOf,
  isNumber,
  isReference,
  orderFeel,
  orderWords,
  type Expressed,
  type Operand,
  type Value,
  type ValueType,
} from '../values/index.ts';
import type { Comparison, Condition } from './condition.ts';

/** The verbs of comparisons of values of a type. */
export const comparisonWords = (type: ValueType | undefined): Record<Comparison, string> => ({ is: 'is', isNot: 'is not', ...orderWords(type) });

/** Names for what a condition mentions. */
export interface Naming {
  /** The name of a place, as a reader knows it. */
  place: (ref: string) => string;
  /** What values stand there, where that is known. */
  type?: (ref: string) => ValueType | undefined;
  /** The words for a stated value at that place (a choice's label, a person's name). */
  value: (value: Value, ref: string) => string;
}

/** A condition as a sentence part: "Kind of work is Project and Project name has a value". */
export function conditionWords(c: Condition, naming: Naming): string {
  if ('all' in c) return c.all.map((x) => wrap(x, naming, 'any')).join(' and ');
  if ('any' in c) return c.any.map((x) => wrap(x, naming, 'all')).join(' or ');
  if ('not' in c) return 'has' in c.not ? `${naming.place(c.not.has.ref)} has no value` : `not (${conditionWords(c.not, naming)})`;
  if ('has' in c) return `${naming.place(c.has.ref)} has a value`;
  const right = isReference(c.right) ? naming.place(c.right.ref) : naming.value(c.right.literal, c.left.ref);
  return `${naming.place(c.left.ref)} ${comparisonWords(naming.type?.(c.left.ref))[c.compare]} ${right}`;
}

const wrap = (c: Condition, naming: Naming, other: 'all' | 'any') => (other in c ? `(${conditionWords(c, naming)})` : conditionWords(c, naming));

const operators: Record<Comparison, string> = { is: '=', isNot: '!=', less: '<', atMost: '<=', more: '>', atLeast: '>=' };

/**
 * The same condition in FEEL (OMG DMN 1.3), for export and for checking ours against an independent interpreter. What has no
 * order in FEEL (a sum of money is a context there) is ordered by its parts; two places of such a type cannot be.
 */
export function conditionFeel(c: Condition): string {
  if ('all' in c) return `(${c.all.map(conditionFeel).join(' and ')})`;
  if ('any' in c) return `(${c.any.map(conditionFeel).join(' or ')})`;
  if ('not' in c) return `not(${conditionFeel(c.not)})`;
  if ('has' in c) return `(${c.has.ref} != null)`;
  const inOrder =
    c.compare !== 'is' && c.compare !== 'isNot' && !isReference(c.right) && orderFeel(c.left.ref, operators[c.compare], c.right.literal);
  return inOrder || `(${c.left.ref} ${operators[c.compare]} ${operandFeel(c.right)})`;
}

const operandFeel = (o: Operand): string => (isReference(o) ? o.ref : valueFeel(o.literal));

/** A value as FEEL writes it; what is held by an id is its id. */
const valueFeel = (v: Value): string => expressedFeel(expressionOf(v));
function expressedFeel(v: Expressed): string {
  if (Array.isArray(v)) return `[${v.map(expressedFeel).join(', ')}]`;
  if (isNumber(v)) return digitsOf(v);
  if (typeof v !== 'object' || v === null) return JSON.stringify(v);
  return `{${Object.entries(v.named)
    .map(([name, x]) => `${name}: ${expressedFeel(x)}`)
    .join(', ')}}`;
}
