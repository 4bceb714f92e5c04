import type { Finding } from '../../core/plans/index.ts';

/** Whether a finding is about the form or the price, which are mended on the leaf Ask. */
export const isOfAsk = (f: Finding): boolean => [f.field, f.section, f.rule, f.test, f.price].some((of) => of !== undefined);

/** Where a finding is mended, from another leaf of the item. */
export function placeOf(f: Finding): string {
  if (f.step !== undefined) return `../plan?step=${f.step}`;
  if (f.field !== undefined) return `../ask?field=${f.field}`;
  if (f.section !== undefined) return `../ask?section=${f.section}`;
  if (f.rule !== undefined) return '../ask?rules';
  if (f.price !== undefined) return '../ask?price';
  return f.test !== undefined ? '../ask?tests' : '../plan';
}
