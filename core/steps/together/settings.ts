import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { Id } from '../../values/index.ts';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** When branches side by side go on. */
export const Join = z.enum(['all', 'first']);
export type Join = z.infer<typeof Join>;

/** Branches side by side, joined when all or the first is done. */
export interface Together extends Base {
  kind: 'together';
  join: Join;
  branches: { id: string; name: string; block: Block }[];
}
/** The schema of branches side by side; `block` is that of what they hold. */
export const togetherSchema = (block: BlockSchema) =>
  z.object({ ...base, kind: kind('together'), join: Join, branches: z.array(z.object({ id: Id, name: line(120), block })).max(20) });
