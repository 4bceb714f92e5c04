import { sql } from 'drizzle-orm';
import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Retries } from '../../../core/plans/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { run } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

export const call = pgTable(
  'call',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    action: text('action').notNull(),
    inputs: jsonb('inputs').$type<Record<string, Value>>().notNull(),
    /** Run, step, occurrence and round: the same call repeated after a crash carries the same key. */
    idempotencyKey: text('idempotency_key').notNull().unique(),
    /** When it set about changing something; a repeat of it finds what it did itself. */
    changingAt: when('changing_at'),
    retries: jsonb('retries').$type<Retries>().notNull(),
    createdAt: when('created_at').notNull(),
    /** What its run was told of it. Accepted: nothing yet, the system answers later. Late: that no answer came in time. */
    status: text('status', { enum: ['waiting', 'accepted', 'succeeded', 'failed', 'late', 'cancelled'] })
      .notNull()
      .default('waiting'),
    outputs: jsonb('outputs').$type<Record<string, Value>>(),
    /** When it is looked at next: tried, asked about, given up; the sweep finds calls whose job was lost. */
    dueAt: when('due_at').notNull(),
    round: integer('round').notNull().default(0),
    /** When it was first sent: from then on the system may have done it. */
    begunAt: when('begun_at'),
    acceptedAt: when('accepted_at'),
    /** When the answer to what was accepted is late. */
    answerBy: when('answer_by'),
    /** When nothing more was to come of it: it was answered, had failed for good, or was never sent. */
    closedAt: when('closed_at'),
    /** What the system calls what it accepted. */
    job: text('job'),
    /** What the system said last about how it goes. */
    progress: text('progress').notNull().default(''),
    /** How often it was asked about. */
    asked: integer('asked').notNull().default(0),
    /** Whom what is secret in its answer goes to, and for how long (ISO 8601) it can be opened. */
    noteTo: uuid('note_to').references(() => person.id),
    noteFor: text('note_for'),
    /** The secrets that were made for it, by the names of its inputs, encrypted as one: the same each time it is sent. */
    sealedMade: text('sealed_made'),
    /** How often it was told from within that how it stands has changed: whoever asked before that asks again at once. */
    told: integer('told').notNull().default(0),
    /** What is said about the request meanwhile is said there too, and what is said there here. */
    mirrors: boolean('mirrors').notNull().default(false),
    /** When that is looked at next, and how often that was wanted; how often it went wrong since it last went well, and how. */
    wordsDue: when('words_due'),
    wordsAsked: integer('words_asked').notNull().default(0),
    wordsTries: integer('words_tries').notNull().default(0),
    wordsTrouble: text('words_trouble').notNull().default(''),
    /** When it was found that what it gives meets nothing in its person that it is kept apart from: from then on it counts as given. */
    clearedAt: when('cleared_at'),
  },
  (t) => [
    index('call_run').on(t.runId),
    index('call_open')
      .on(t.dueAt)
      .where(sql`${t.closedAt} is null`),
    index('call_words_due')
      .on(t.wordsDue)
      .where(sql`${t.wordsDue} is not null`),
  ],
);

/** Every try of a call and every answer to it, as the trace shows it. */
export const callTry = pgTable(
  'call_try',
  {
    callId: uuid('call_id')
      .notNull()
      .references(() => call.id),
    n: integer('n').notNull(),
    beganAt: when('began_at').notNull(),
    endedAt: when('ended_at').notNull(),
    ok: text('ok', { enum: ['yes', 'no'] }).notNull(),
    said: text('said').notNull(),
    /** We sent it, we asked how it stands, or the system called back. */
    how: text('how', { enum: ['sent', 'asked', 'calledBack'] })
      .notNull()
      .default('sent'),
    /** Of a call back: the signature it came with, by which the same one is known again. */
    signature: text('signature'),
  },
  (t) => [primaryKey({ columns: [t.callId, t.n] }), uniqueIndex('call_try_signature').on(t.callId, t.signature)],
);
