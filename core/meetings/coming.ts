import { z } from 'zod';

/** What somebody who is invited says. */
export const Coming = z.enum(['yes', 'no', 'maybe']);
export type Coming = z.infer<typeof Coming>;
/** The same as people read it. */
export const comingWords: Record<Coming, string> = { yes: 'Comes', no: 'Does not come', maybe: 'May come' };
