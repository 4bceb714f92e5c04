import { z } from 'zod';
import { base, kind } from '../base.ts';
import { Outcome } from '../settings.ts';

/** Ends the request here, with an outcome. */
export const Finish = z.object({ ...base, kind: kind('finish'), outcome: Outcome.optional() });
export type Finish = z.infer<typeof Finish>;
