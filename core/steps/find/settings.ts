import { z } from 'zod';
import { Key, Reference } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** What to look up, as of the moment it is needed. */
export const Lookup = z.union([
  z.object({ find: z.literal('managerOf'), person: Reference, levels: z.number().int().min(1).max(10).optional() }),
  z.object({ find: z.literal('ownersOf'), group: Reference }),
  z.object({ find: z.literal('membersOf'), group: Reference }),
  z.object({ find: z.literal('teamMembers'), team: Key }),
  z.object({ find: z.literal('reportsOf'), person: Reference }),
]);
export type Lookup = z.infer<typeof Lookup>;

/** Looks up a person or people. */
export const Find = z.object({ ...base, kind: kind('find'), lookup: Lookup.optional() });
export type Find = z.infer<typeof Find>;
