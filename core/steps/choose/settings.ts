import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { Condition } from '../../conditions/index.ts';
import { Id } from '../../values/index.ts';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** One case of a choice. */
export interface Case {
  id: string;
  name: string;
  when?: Condition | undefined;
  /** How often, in percent of requests; for the time analysis. */
  share?: number | undefined;
  block: Block;
}
/** The first case whose condition holds, else otherwise. */
export interface Choose extends Base {
  kind: 'choose';
  cases: Case[];
  otherwise?: Block | undefined;
}
/** The schema of a choice; `block` is that of what it holds. */
export const chooseSchema = (block: BlockSchema) =>
  z.object({
    ...base,
    kind: kind('choose'),
    cases: z.array(z.object({ id: Id, name: line(120), when: Condition.optional(), share: z.number().min(0).max(100).optional(), block })).max(50),
    otherwise: block.optional(),
  });
