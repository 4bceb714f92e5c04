import { z } from 'zod';
import { Span } from '../../calendar/index.ts';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** Tries the body; if it fails, or is late, does something else. */
export interface Guard extends Base {
  kind: 'guard';
  body: Block;
  remedy: Block;
  deadline?: Span | undefined;
  late?: Block | undefined;
}
/** The schema of a guard; `block` is that of what it holds. */
export const guardSchema = (block: BlockSchema) =>
  z.object({ ...base, kind: kind('guard'), body: block, remedy: block, deadline: Span.optional(), late: block.optional() });
