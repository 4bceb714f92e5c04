import { z } from 'zod';
import type { ValueRoom } from '../room.ts';

/** The room of this type; `room.ts` says what each member means. */
export const boolean: ValueRoom<boolean> = {
  words: 'yes or no',
  must: 'must be yes or no',
  schema: z.boolean(),
  is: (v) => typeof v === 'boolean',
  say: (v) => (v ? 'yes' : 'no'),
  typed: (text) => (text === 'true' ? true : text === 'false' ? false : undefined),
  json: { type: 'boolean' },
  stretches: () => [true, false],
};
