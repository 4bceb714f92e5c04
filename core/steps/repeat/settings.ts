import { z } from 'zod';
import { Span } from '../../calendar/index.ts';
import { Condition } from '../../conditions/index.ts';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** Again until something holds: the body, then the test, bounded by tries or a deadline. */
export interface Repeat extends Base {
  kind: 'repeat';
  body: Block;
  /** Tested after each round; once it holds the repeat is over. */
  until?: Condition | undefined;
  pause?: Span | undefined;
  tries?: number | undefined;
  deadline?: Span | undefined;
}
/** The schema of a repeat; `block` is that of what it holds. */
export const repeatSchema = (block: BlockSchema) =>
  z.object({
    ...base,
    kind: kind('repeat'),
    body: block,
    until: Condition.optional(),
    pause: Span.optional(),
    tries: z.number().int().min(1).max(1000).optional(),
    deadline: Span.optional(),
  });
