import { z } from 'zod';
import { Block, Part } from '../steps/index.ts';
import { Key, Retired, WereCalled } from '../values/index.ts';

/** The steps a request goes through. Always well nested: compound steps hold blocks. */
export const Plan = z.object({
  steps: Block,
  /** The parts the steps name, as they were when the item was published; a draft reads them from the catalogue. */
  parts: z.record(Key, Part).optional(),
  /** Keys of steps that are not here any more. */
  retired: Retired.optional(),
  wereCalled: WereCalled.optional(),
  /** The outcomes after which everything provisioned is taken back, last first. */
  undoWhen: z.array(z.enum(['failed', 'declined', 'lapsed', 'withdrawn'])).optional(),
});
export type Plan = z.infer<typeof Plan>;
