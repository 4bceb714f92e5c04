import { z } from 'zod';
import { Duration } from '../calendar/index.ts';
import { Condition } from '../conditions/index.ts';
import { RichText, sentence } from '../values/index.ts';

/** How a request ends. */
export const outcomes = ['fulfilled', 'declined', 'withdrawn', 'lapsed', 'failed'] as const;
/** One of them. */
export const Outcome = z.enum(outcomes);
export type Outcome = z.infer<typeof Outcome>;
/** Outcomes as people read them. */
export const outcomeWords: Record<Outcome, string> = {
  fulfilled: 'Fulfilled',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
  lapsed: 'Lapsed',
  failed: 'Failed',
};

/** Reminders to those who have not answered: each after this much working time, at most so often. */
export const Reminders = z.object({ after: Duration, times: z.number().int().min(1).max(10) });
export type Reminders = z.infer<typeof Reminders>;

/** A piece of a message; with a condition it is there only while that holds when the message is written. */
export const Passage = z.object({ when: Condition.optional(), text: RichText });
export type Passage = z.infer<typeof Passage>;
/** A message of one passage in fixed words. */
export const passages = (text: string): Passage[] => [{ text: sentence(text) }];
