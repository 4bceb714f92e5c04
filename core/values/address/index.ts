import type { ValueRoom } from '../room.ts';
import { textual } from '../text/index.ts';

/**
 * Whether a text is a mail address as people write them: one part, an at sign, a domain with a dot (a narrow reading of RFC
 * 5322, addr-spec; what a mail server takes beyond that nobody types into a form).
 */
export const isMailAddress = (text: string): boolean =>
  text.length <= 254 && /^[^\s@<>()[\],;:"\\]+@[^\s@<>()[\],;:"\\.]+(\.[^\s@<>()[\],;:"\\.]+)+$/.test(text);

/** The room of this type; `room.ts` says what each member means. */
export const address: ValueRoom<string> = {
  ...textual,
  words: 'mail address',
  must: 'must be a mail address such as name@example.org',
  json: { type: 'string', format: 'email' },
};
