import type { ValueRoom } from '../room.ts';
import { longestText, textual } from '../text/index.ts';

/** The room of this type: one of stated texts. `room.ts` says what each member means. */
export const choice: ValueRoom<string> = {
  ...textual,
  words: 'choice',
  must: 'must be one of the choices',
  json: { type: 'string', maxLength: longestText },
};
