import { z } from 'zod';
import { areComparable, isEmpty, isReference, Operand, orderOf, Reference, sameValue, type Value } from '../values/index.ts';

/** How two values are compared. */
export const Comparison = z.enum(['is', 'isNot', 'less', 'atMost', 'more', 'atLeast']);
export type Comparison = z.infer<typeof Comparison>;

/** A typed tree: all, any, not, comparisons, and whether a place has a value. */
export type Condition =
  { all: Condition[] } | { any: Condition[] } | { not: Condition } | { has: Reference } | { compare: Comparison; left: Reference; right: Operand };

/** A typed condition over places: all of, any of, not, has a value, or a comparison of a place with a literal or another place. */
export const Condition: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    z.object({ all: z.array(Condition).min(1).max(100) }),
    z.object({ any: z.array(Condition).min(1).max(100) }),
    z.object({ not: Condition }),
    z.object({ has: Reference }),
    z.object({ compare: Comparison, left: Reference, right: Operand }),
  ]),
);

/** Gives the value at a place; undefined or null where there is none. */
export type Read = (ref: string) => Value | undefined;
/** FEEL's three truth values: `null` is "cannot be told", as when a missing number is compared. */
type Truth = boolean | null;

/**
 * Compiles a condition once; the predicate then costs no parsing.
 * Three-valued as in FEEL (DMN 1.3, clause 10.3.2.10): it holds only when the tree is `true`.
 */
export function compile(condition: Condition): (read: Read) => boolean {
  const truth = compileTruth(condition);
  return (read) => truth(read) === true;
}

/**
 * The same, where it matters that a condition does not hold: whether it is `false`. What cannot be told, as the order of a date
 * that is not given, is not.
 */
export function compileFailing(condition: Condition): (read: Read) => boolean {
  const truth = compileTruth(condition);
  return (read) => truth(read) === false;
}

function compileTruth(c: Condition): (read: Read) => Truth {
  if ('all' in c) {
    const parts = c.all.map(compileTruth);
    return (read) => {
      let result: Truth = true;
      for (const part of parts) {
        const t = part(read);
        if (t === false) return false;
        if (t === null) result = null;
      }
      return result;
    };
  }
  if ('any' in c) {
    const parts = c.any.map(compileTruth);
    return (read) => {
      let result: Truth = false;
      for (const part of parts) {
        const t = part(read);
        if (t === true) return true;
        if (t === null) result = null;
      }
      return result;
    };
  }
  if ('not' in c) {
    const part = compileTruth(c.not);
    return (read) => {
      const t = part(read);
      return t === null ? null : !t;
    };
  }
  if ('has' in c) {
    const { ref } = c.has;
    return (read) => !isEmpty(read(ref));
  }
  const { compare, left, right } = c;
  const rightOf = isReference(right) ? (read: Read) => read(right.ref) : () => right.literal;
  return (read) => compareValues(compare, read(left.ref), rightOf(read));
}

function compareValues(compare: Comparison, a: Value | undefined, b: Value | undefined): Truth {
  if (compare === 'is' || compare === 'isNot') {
    if (!isEmpty(a) && !isEmpty(b) && !areComparable(a!, b!)) return null;
    return (isEmpty(a) || isEmpty(b) ? isEmpty(a) === isEmpty(b) : sameValue(a, b)) === (compare === 'is');
  }
  const order = orderOf(a, b);
  if (order === null) return null;
  if (compare === 'less') return order < 0;
  if (compare === 'atMost') return order <= 0;
  if (compare === 'more') return order > 0;
  return order >= 0;
}

/** Every reference a condition reads. */
export function conditionReferences(c: Condition): string[] {
  if ('all' in c) return c.all.flatMap(conditionReferences);
  if ('any' in c) return c.any.flatMap(conditionReferences);
  if ('not' in c) return conditionReferences(c.not);
  if ('has' in c) return [c.has.ref];
  return [c.left.ref, ...(isReference(c.right) ? [c.right.ref] : [])];
}

/** The references that must have a value whenever the condition holds; used to narrow what a branch may rely on. */
export function impliedPresent(c: Condition): string[] {
  if ('all' in c) return c.all.flatMap(impliedPresent);
  if ('any' in c) return inEach(c.any.map(impliedPresent));
  // What stands under a not is false, and not only unknown.
  if ('not' in c) return impliedByFailing(c.not);
  if ('has' in c) return [c.has.ref];
  const literalEmpty = !isReference(c.right) && isEmpty(c.right.literal);
  if (c.compare === 'is') return literalEmpty || isReference(c.right) ? [] : [c.left.ref];
  if (c.compare === 'isNot') return literalEmpty ? [c.left.ref] : [];
  return [c.left.ref, ...(isReference(c.right) ? [c.right.ref] : [])];
}

/** The references that must have a value whenever the condition does not hold: it is false, or cannot be told. */
export function impliedByFailing(c: Condition): string[] {
  if ('all' in c) return inEach(c.all.map(impliedByFailing));
  if ('any' in c) return c.any.flatMap(impliedByFailing);
  if ('not' in c) return 'has' in c.not ? [c.not.has.ref] : [];
  if ('has' in c || isReference(c.right)) return [];
  const empty = isEmpty(c.right.literal);
  return (c.compare === 'is' && empty) || (c.compare === 'isNot' && !empty) ? [c.left.ref] : [];
}
const inEach = (lists: string[][]): string[] => (lists[0] ?? []).filter((ref) => lists.every((l) => l.includes(ref)));

/** The parts that all hold whenever the condition does. */
export const conjuncts = (c: Condition): Condition[] => ('all' in c ? c.all.flatMap(conjuncts) : [c]);
