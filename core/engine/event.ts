import { z } from 'zod';
import { Answers } from './answers.ts';
import { PersonValue, Value } from '../values/index.ts';

/** A person as a gate needs them: who answers in their place, and who is above them. */
export const Candidate = z.object({
  person: z.string(),
  /** Set when this person is away: who decides instead. */
  delegate: z.string().optional(),
  manager: z.string().optional(),
});
export type Candidate = z.infer<typeof Candidate>;

/** What happens to a run. Every event is kept; replaying them gives the same state. */
export const RunEvent = z.discriminatedUnion('type', [
  z.object({ type: z.literal('begin'), requester: PersonValue, number: z.string(), answers: Answers }),
  /** Who a gate's approvers turned out to be, looked up when it opened. */
  z.object({ type: z.literal('found'), key: z.string(), people: z.array(Candidate) }),
  z.object({ type: z.literal('decided'), key: z.string(), person: z.string(), decision: z.enum(['approve', 'decline']), comment: z.string() }),
  z.object({ type: z.literal('answered'), key: z.string(), outputs: z.record(z.string(), Value) }),
  z.object({ type: z.literal('callFailed'), key: z.string(), cause: z.string() }),
  z.object({ type: z.literal('retried'), key: z.string(), person: z.string() }),
  z.object({ type: z.literal('withdrawn'), person: z.string() }),
]);
export type RunEvent = z.infer<typeof RunEvent>;
