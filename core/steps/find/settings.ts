import { z } from 'zod';
import { Id, Key, Operand, Reference, TableId } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** What to look up, as of the moment it is needed. */
export const Lookup = z.union([
  z.object({ find: z.literal('managerOf'), person: Reference, levels: z.number().int().min(1).max(10).optional() }),
  z.object({ find: z.literal('ownersOf'), group: Reference }),
  z.object({ find: z.literal('membersOf'), group: Reference }),
  z.object({ find: z.literal('teamMembers'), team: Key }),
  z.object({ find: z.literal('reportsOf'), person: Reference }),
  /** Rows of a table in which each of these columns says just this; of one that is looked for, what becomes of several is stated. */
  z.object({ find: z.literal('rows'), table: TableId.optional(), where: z.record(Id, Operand) }),
  z.object({ find: z.literal('row'), table: TableId.optional(), where: z.record(Id, Operand), several: z.enum(['first', 'fail']) }),
]);
export type Lookup = z.infer<typeof Lookup>;

/** Looks up a person, people, or rows of a table. */
export const Find = z.object({ ...base, kind: kind('find'), lookup: Lookup.optional() });
export type Find = z.infer<typeof Find>;
