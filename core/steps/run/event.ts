import { z } from 'zod';
import type { RunEvent } from '../../engine/index.ts';

/**
 * A person as a gate needs them: who answers in their place, and who is above them. Delegates are looked up to the end:
 * the delegate's delegate while that one is away too.
 */
export const Candidate = z.object({
  person: z.string(),
  /** Set when this person is away: who decides instead. */
  delegate: z.string().optional(),
  /** They are away, and nobody answers for them: no delegate, or delegates who are all away. */
  absent: z.boolean().optional(),
  /** Who answers for their manager: the manager, or while that one is away whoever decides instead. Undefined: nobody. */
  manager: z.string().optional(),
  /** Where a look-up has several sources: by which of them they were found, from 0. */
  sources: z.array(z.number().int().min(0)).optional(),
});
export type Candidate = z.infer<typeof Candidate>;

/** The events that are for one step. */
export type StepEvent = Exclude<RunEvent, { type: 'begin' | 'withdrawn' | 'added' }>;
/** The event of one type. */
export type EventOf<T extends StepEvent['type']> = Extract<StepEvent, { type: T }>;
