import { z } from 'zod';
import { base, kind, type Base, type BlockSchema } from '../base.ts';
import type { Block } from '../step.ts';

/** What is done before the request ends so, from wherever it was; where nothing is stated it ends at once. */
export interface Closing extends Base {
  kind: 'closing';
  declined?: Block | undefined;
  withdrawn?: Block | undefined;
  lapsed?: Block | undefined;
  failed?: Block | undefined;
}
/** The schema of a closing; `block` is that of what it holds. */
export const closingSchema = (block: BlockSchema) =>
  z.object({
    ...base,
    kind: kind('closing'),
    declined: block.optional(),
    withdrawn: block.optional(),
    lapsed: block.optional(),
    failed: block.optional(),
  });
