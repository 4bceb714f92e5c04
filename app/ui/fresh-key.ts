import { idFrom } from '../../core/values/index.ts';

/**
 * A key for something new in a list that keeps no record of the keys it once had (choices, inputs, actions, cases): with a
 * piece by chance, so that whatever still names one that was removed never means the new one.
 */
export function freshKey(stem: string): string {
  const chance = [...crypto.getRandomValues(new Uint8Array(5))].map((n) => (n % 36).toString(36)).join('');
  return `${idFrom(stem, new Set())}_${chance}`;
}
