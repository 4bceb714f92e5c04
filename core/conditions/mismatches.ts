import { areAlike, isEmpty, isOfType, isOrdered, isReference, rowType, typeWords, type ValueType } from '../values/index.ts';
import type { Condition } from './condition.ts';

/** What a condition compares: what it is called, and what stands there. */
export interface Compared {
  label: string;
  type: ValueType;
  options?: readonly { value: string }[] | undefined;
}

/** What is wrong with a condition, as the end of a sentence. Places that do not exist are told elsewhere. */
export function mismatches(c: Condition, places: ReadonlyMap<string, Compared>): string[] {
  if ('all' in c) return c.all.flatMap((x) => mismatches(x, places));
  if ('any' in c) return c.any.flatMap((x) => mismatches(x, places));
  if ('not' in c) return mismatches(c.not, places);
  if ('has' in c) return [];
  const left = places.get(c.left.ref);
  if (!left) return [];
  if (rowType(left.type)) return [`compares “${left.label}”, which is a list; ask whether it has a value`];
  if (c.compare !== 'is' && c.compare !== 'isNot' && !isOrdered(left.type))
    return [`asks whether “${left.label}” is more or less than something; a ${typeWords[left.type]} has no order`];
  if (isReference(c.right)) {
    const right = places.get(c.right.ref);
    return right && !areAlike(left.type, right.type)
      ? [`compares “${left.label}”, a ${typeWords[left.type]}, with “${right.label}”, a ${typeWords[right.type]}`]
      : [];
  }
  const { literal } = c.right;
  if (isEmpty(literal)) return [];
  if (!isOfType(literal, left.type)) return [`compares “${left.label}”, a ${typeWords[left.type]}, with something that is none`];
  if (left.options && (c.compare === 'is' || c.compare === 'isNot') && !left.options.some((o) => o.value === literal))
    return [`compares “${left.label}” with a choice that it does not offer`];
  return [];
}
