import { z } from 'zod';
import { Duration } from '../../calendar/index.ts';
import { Reference, RichText } from '../../values/index.ts';
import { base, kind } from '../base.ts';
import { Passage } from '../settings.ts';

/** A meeting of some people, at the next time at which all of them are free. */
export const Invite = z.object({
  ...base,
  kind: kind('invite'),
  who: z.array(Reference).max(10),
  title: RichText,
  body: z.array(Passage).max(30),
  /** Where it is. */
  place: RichText.optional(),
  /** How long it takes, in minutes. */
  minutes: z.number().int().min(15).max(480),
  /** From which date or instant on a time is looked for. Absent: from when it is asked for. */
  from: Reference.optional(),
  /** On how many working days in a row a time is looked for, the first counted. */
  within: z.number().int().min(1).max(60),
  /** How long before it begins those invited are told at least, in working time. */
  notice: Duration.optional(),
  /** The plan waits for what they say; `again`: how often another time is looked for when somebody cannot come. */
  waits: z.object({ again: z.number().int().min(0).max(5) }).optional(),
});
export type Invite = z.infer<typeof Invite>;
