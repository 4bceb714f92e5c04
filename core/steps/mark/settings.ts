import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { Duration } from '../../calendar/index.ts';
import { base, kind } from '../base.ts';

/** A milestone or status that the requester sees. */
export const Mark = z.object({
  ...base,
  kind: kind('mark'),
  /** A milestone the requester sees being reached, or a status that holds from here on. */
  shows: z.enum(['milestone', 'status']),
  words: line(120),
  /** Of a milestone: the working time from asking within which it is promised to be reached. */
  promised: Duration.optional(),
  /** From here on the requester cannot withdraw. */
  noReturn: z.boolean().optional(),
});
export type Mark = z.infer<typeof Mark>;
