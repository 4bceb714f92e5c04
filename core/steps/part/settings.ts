import { z } from 'zod';
import { Id, Key, Operand } from '../../values/index.ts';
import { base, kind } from '../base.ts';

/** Steps that several items share, with what they are given. */
export const PartCall = z.object({ ...base, kind: kind('part'), part: Key.optional(), inputs: z.record(Id, Operand) });
export type PartCall = z.infer<typeof PartCall>;
