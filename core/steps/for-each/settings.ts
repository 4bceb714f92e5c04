import { z } from 'zod';
import { Reference } from '../../values/index.ts';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** The same steps for every row of a list, which is read when it begins. */
export interface ForEach extends Base {
  kind: 'forEach';
  list?: Reference | undefined;
  /** How many rounds run at once; 1 is in order, absent is all. */
  atOnce?: number | undefined;
  body: Block;
}
/** The schema of a For each; `block` is that of what it holds. */
export const forEachSchema = (block: BlockSchema) =>
  z.object({ ...base, kind: kind('forEach'), list: Reference.optional(), atOnce: z.number().int().min(1).max(100).optional(), body: block });
