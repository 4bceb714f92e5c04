import { z } from 'zod';
import { Field } from '../../forms/index.ts';
import { Reference, RichText } from '../../values/index.ts';
import { base, kind } from '../base.ts';
import { Reminders } from '../settings.ts';

/** A question to the requester, or to somebody else; the clock is held until it is answered. */
export const AskBack = z.object({
  ...base,
  kind: kind('askBack'),
  to: Reference.optional(),
  question: RichText,
  fields: z.array(Field).max(50),
  reminders: Reminders.optional(),
});
export type AskBack = z.infer<typeof AskBack>;
