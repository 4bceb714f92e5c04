import { z } from 'zod';
import { Answers } from './answers.ts';
import { Coming } from '../meetings/index.ts';
import { Candidate, GateRule, Step, type AskBack, type Gate, type Task } from '../steps/index.ts';
import { PersonValue, Row, RowRead, Value } from '../values/index.ts';

const Round = z.number().int().min(0).optional();
const Values = z.record(z.string(), Value);
/** More rows than this one look-up does not find. */
const mostFound = 1000;
const byPerson = { key: z.string(), person: z.string() };

/** What happens to a run. Every event is kept; replaying them gives the same state. */
export const RunEvent = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('begin'),
    requester: PersonValue,
    /** For whom it is asked, where that is somebody else. */
    for: PersonValue.optional(),
    number: z.string(),
    answers: Answers,
    /** IANA zone whose desk hours count working time. */
    zone: z.string(),
    /** What began it, the first cause first; see `causeChain`. */
    causes: z.array(z.string()).optional(),
  }),
  /** Who was looked up when a gate opened or a find ran. A policy may bring its own rule, or say that nobody need agree. */
  z.object({
    type: z.literal('found'),
    key: z.string(),
    people: z.array(Candidate),
    /** Of a task that is routed: the team it goes to; who is found has it from the start. */
    team: z.string().optional(),
    /** Who answers for whom the gate names for when nobody is found; null: nobody does now. */
    stated: z.string().nullable().optional(),
    rule: GateRule.optional(),
    passes: z.string().optional(),
    problem: z.string().optional(),
  }),
  /** The instant that was asked for, by the hours of that moment; null: there is no such day. */
  z.object({ type: z.literal('reckoned'), key: z.string(), names: z.array(z.string()), at: z.string().nullable() }),
  /** The rows of a table that were looked up, in the order of their keys. */
  z.object({ type: z.literal('rowsFound'), key: z.string(), rows: z.array(Row).max(mostFound) }),
  /** The rows whose columns are read next, as they were at that moment. */
  z.object({ type: z.literal('rowsRead'), key: z.string(), rows: z.array(RowRead) }),
  z.object({
    type: z.literal('decided'),
    ...byPerson,
    decision: z.enum(['approve', 'decline']),
    comment: z.string(),
    /** Fields the gate opens, corrected before deciding. */
    corrections: Answers.optional(),
    /** What nobody fills in and was looked up anew for them. */
    lookedUp: Answers.optional(),
  }),
  z.object({ type: z.literal('sentBack'), ...byPerson, comment: z.string() }),
  z.object({ type: z.literal('resubmitted'), ...byPerson, answers: Answers }),
  /**
   * A system's answer; `changed` false: it found everything as wanted and gave nothing that could be taken back. `round`: to which
   * call of the step; absent in what was kept before that was told.
   */
  z.object({ type: z.literal('answered'), key: z.string(), round: Round, outputs: Values, changed: z.boolean().optional() }),
  /** `mayCome`: the time for it is over, and nobody knows yet whether it was done; its answer may come all the same. */
  z.object({
    type: z.literal('callFailed'),
    key: z.string(),
    round: Round,
    cause: z.string(),
    mayCome: z.literal(true).optional(),
    /** Of a taking back: who does by hand what the system could not. */
    hand: z.string().optional(),
  }),
  /**
   * Something that was given is given back, or taken: `id` as `givenId` has it; by whom, absent where its time was over. `hand`: who
   * does it where no action does. `gone`: the system has it no more, so there is nothing that it could take back.
   */
  z.object({
    type: z.literal('givenBack'),
    id: z.string(),
    person: z.string().optional(),
    why: z.string(),
    hand: z.string().optional(),
    gone: z.literal(true).optional(),
  }),
  /** Whoever has a task corrects what was asked. */
  z.object({ type: z.literal('corrected'), ...byPerson, corrections: Answers, lookedUp: Answers.optional() }),
  z.object({ type: z.literal('taskDone'), ...byPerson, values: Values }),
  z.object({ type: z.literal('replied'), ...byPerson, values: Values }),
  /** Somebody who is invited says whether they come; `round`: to which telling of it. */
  z.object({ type: z.literal('coming'), ...byPerson, round: Round, says: Coming }),
  z.object({ type: z.literal('timer'), key: z.string(), name: z.string() }),
  z.object({ type: z.literal('retried'), ...byPerson }),
  z.object({ type: z.literal('skipped'), ...byPerson, comment: z.string() }),
  z.object({ type: z.literal('takenOver'), ...byPerson, outputs: Values, comment: z.string() }),
  z.object({ type: z.literal('added'), person: z.string(), to: z.string(), step: Step }),
  z.object({ type: z.literal('withdrawn'), person: z.string() }),
  /** Somebody who was asked cannot answer any more: who is asked is looked up again. */
  z.object({ type: z.literal('staffChanged'), key: z.string() }),
]);
type Parsed = z.infer<typeof RunEvent>;
export type RunEvent = Exclude<Parsed, { type: 'added' }> | (Omit<Extract<Parsed, { type: 'added' }>, 'step'> & { step: AskBack | Gate | Task });
