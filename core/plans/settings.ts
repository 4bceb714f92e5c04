import { z } from 'zod';
import { Duration, Span } from '../calendar/index.ts';
import { Condition } from '../conditions/index.ts';
import { Id, Key, Operand, PersonValue, Reference, RichText, sentence } from '../values/index.ts';

export const Outcome = z.enum(['fulfilled', 'declined', 'withdrawn', 'lapsed', 'failed']);
export type Outcome = z.infer<typeof Outcome>;

/** Who decides at a gate. Looked up when the gate opens. */
export const Approvers = z.union([
  z.object({ from: z.literal('people'), people: z.array(PersonValue).min(1).max(50) }),
  /** A person, or each of a list of people. */
  z.object({ from: z.literal('person'), person: Reference }),
  /** The manager, or the one that many levels up. */
  z.object({ from: z.literal('managerOf'), person: Reference, levels: z.number().int().min(1).max(10).optional() }),
  z.object({ from: z.literal('ownersOf'), group: Reference }),
  z.object({ from: z.literal('team'), team: Key }),
  /**
   * The chain of command upwards from a person, one after another: at most `levels`, and where an amount is given
   * only as far as the first level whose limit covers it. `limits[0]` belongs to the first level; a level without one has none.
   */
  z.object({
    from: z.literal('chain'),
    person: Reference,
    levels: z.number().int().min(1).max(10),
    amount: Reference.optional(),
    limits: z.array(z.number()).max(10).optional(),
  }),
  /** A policy kept in one place; `inputs` gives its values by name. */
  z.object({ from: z.literal('policy'), policy: Key, inputs: z.record(Id, Operand) }),
]);
export type Approvers = z.infer<typeof Approvers>;

/** When the gate lets the request pass, over n approvers. */
export const GateRule = z.union([
  z.object({ rule: z.literal('all') }),
  z.object({ rule: z.literal('any') }),
  z.object({ rule: z.literal('atLeast'), count: z.number().int().min(1).max(50) }),
  z.object({ rule: z.literal('first') }),
]);
export type GateRule = z.infer<typeof GateRule>;

/** What the gate does when nobody is left to ask. */
export const NobodyAnswer = z.union([
  z.object({ then: z.literal('ask'), person: PersonValue }),
  z.object({ then: z.literal('pass') }),
  z.object({ then: z.literal('fail') }),
]);
export type NobodyAnswer = z.infer<typeof NobodyAnswer>;

/** Reminders to those who have not answered: each after this much working time, at most so often. */
export const Reminders = z.object({ after: Duration, times: z.number().int().min(1).max(10) });
export type Reminders = z.infer<typeof Reminders>;

/** How often a failed call is tried again; each pause is `factor` times the one before. */
export const Retries = z.object({
  times: z.number().int().min(0).max(30),
  firstPauseSeconds: z.number().min(1).max(3600),
  factor: z.number().min(1).max(10),
});
export type Retries = z.infer<typeof Retries>;
/** Eight tries over about ten minutes. */
export const defaultRetries: Retries = { times: 8, firstPauseSeconds: 2, factor: 2 };

/** Who does a task: a team, a stated person, or a person from a place. */
export const Assignee = z.union([z.object({ team: Key }), z.object({ person: PersonValue }), z.object({ from: Reference })]);
export type Assignee = z.infer<typeof Assignee>;

/** When a task is due: after working time, or at the close of the desk on a date. */
export const Due = z.union([z.object({ within: Duration }), z.object({ by: Reference })]);
export type Due = z.infer<typeof Due>;

/** Until when a pause lasts: for a span, or until the desk opens on a date (or at an instant). */
export const Until = z.union([z.object({ span: Span }), z.object({ date: Reference })]);
export type Until = z.infer<typeof Until>;

/** What to look up, as of the moment it is needed. */
export const Lookup = z.union([
  z.object({ find: z.literal('managerOf'), person: Reference, levels: z.number().int().min(1).max(10).optional() }),
  z.object({ find: z.literal('ownersOf'), group: Reference }),
  z.object({ find: z.literal('membersOf'), group: Reference }),
  z.object({ find: z.literal('teamMembers'), team: Key }),
  z.object({ find: z.literal('reportsOf'), person: Reference }),
]);
export type Lookup = z.infer<typeof Lookup>;

/** A piece of a message; with a condition it is there only while that holds when the message is written. */
export const Passage = z.object({ when: Condition.optional(), text: RichText });
export type Passage = z.infer<typeof Passage>;
/** A message of one passage in fixed words. */
export const passages = (text: string): Passage[] => [{ text: sentence(text) }];

export const Join = z.enum(['all', 'first']);
export type Join = z.infer<typeof Join>;

export const outcomeWords: Record<Outcome, string> = {
  fulfilled: 'Fulfilled',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
  lapsed: 'Lapsed',
  failed: 'Failed',
};
