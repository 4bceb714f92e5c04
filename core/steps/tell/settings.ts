import { z } from 'zod';
import { Reference, RichText } from '../../values/index.ts';
import { base, kind } from '../base.ts';
import { Passage } from '../settings.ts';

/** A message to a person or people. */
export const Tell = z.object({
  ...base,
  kind: kind('tell'),
  to: Reference.optional(),
  by: z.enum(['mail', 'chat']).optional(),
  subject: RichText,
  body: z.array(Passage).max(30),
  /** Files that go with it. */
  attaches: z.array(Reference).max(5).optional(),
});
export type Tell = z.infer<typeof Tell>;
