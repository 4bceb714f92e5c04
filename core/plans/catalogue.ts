import { z } from 'zod';
import { ValueType } from '../values/index.ts';

const Slot = z.object({ name: z.string(), label: z.string(), type: ValueType });

/** What one action of a system takes and gives. */
export const ActionSpec = z.object({
  /** `system.action`, such as `directory.addMember`. */
  id: z.string(),
  system: z.string(),
  label: z.string(),
  inputs: z.array(Slot.extend({ required: z.boolean() })),
  /** `always` false: the output may have no value even when the call succeeded. */
  outputs: z.array(Slot.extend({ always: z.boolean() })),
  /** The action that takes back what this one gave. */
  undoneBy: z.string().optional(),
});
export type ActionSpec = z.infer<typeof ActionSpec>;

/** What the plan may name that lives outside it; given to the checks, so that they stay pure. */
export interface Catalogue {
  actions: ActionSpec[];
  /** Names of the persons that the plan names outright, and whether each still works here. */
  people: Record<string, { name: string; active: boolean }>;
}

export const actionOf = (catalogue: Catalogue, id: string | undefined): ActionSpec | undefined => catalogue.actions.find((a) => a.id === id);
