import type { ValueRoom } from '../room.ts';
import { textual } from '../text/index.ts';

/**
 * Whether a text is a telephone number as people write them: digits with blanks, hyphens, points, strokes and brackets between
 * them, a plus before the country's. At most 15 digits (ITU-T E.164, from memory); fewer than 3 nobody can call.
 */
export function isPhone(text: string): boolean {
  const digits = text.replace(/\D/g, '').length;
  return text.length <= 40 && /^\+?[\d\s().\-/]+$/.test(text) && digits >= 3 && digits <= 15;
}

/** The room of this type; `room.ts` says what each member means. */
export const phone: ValueRoom<string> = {
  ...textual,
  words: 'telephone number',
  must: 'must be a telephone number such as +298 20 30 40',
  is: (v): v is string => typeof v === 'string' && isPhone(v),
  json: { type: 'string', maxLength: 40, pattern: '^\\+?[0-9\\s().\\-/]+$' },
};
