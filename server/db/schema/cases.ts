import { sql } from 'drizzle-orm';
import { bigserial, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { runFormat } from '../../../core/documents/index.ts';
import { stepEnds, type RunEvent } from '../../../core/engine/index.ts';
import type { Answers } from '../../../core/forms/index.ts';
import { outcomes } from '../../../core/plans/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { document } from './document.ts';
import { item, revision } from './items.ts';
import { serviceOrder } from './baskets.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/**
 * What people follow: a number, who asked, what they stated, what came of it. One asked for from the catalog has a run of
 * its item's plan from the start; others may have none, one or several.
 */
export const serviceCase = pgTable(
  'service_case',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    number: bigserial('number', { mode: 'number' }).notNull().unique(),
    kind: text('kind', { enum: ['request', 'ticket'] }).notNull(),
    requesterId: uuid('requester_id')
      .notNull()
      .references(() => person.id),
    /** For whom it was asked, where that is somebody else. */
    forId: uuid('for_id').references(() => person.id),
    /** The order it was sent with, where it was sent with other things. */
    orderId: uuid('order_id').references(() => serviceOrder.id),
    /** Of a request: what was asked for, and the revision whose form the answers answer. */
    itemId: uuid('item_id').references(() => item.id),
    revisionId: uuid('revision_id').references(() => revision.id),
    answers: jsonb('answers').$type<Answers>().notNull(),
    openedAt: when('opened_at').notNull().defaultNow(),
    endedAt: when('ended_at'),
    /** By what a list of what has ended is ordered: after all of those what goes on. */
    endedOrder: when('ended_order')
      .generatedAlwaysAs(sql`coalesce(ended_at, '9999-01-01 00:00:00+00'::timestamptz)`)
      .notNull(),
    outcome: text('outcome', { enum: outcomes }),
    reason: text('reason'),
    /** What was asked, in words as they were then, for finding it by them. */
    words: text('words').notNull().default(''),
    /** Made by the screen that sent it, so that a form sent twice is one case. */
    idempotencyKey: text('idempotency_key').notNull(),
  },
  (t) => [
    index('case_requester').on(t.requesterId, t.number),
    index('case_for')
      .on(t.forId, t.number)
      .where(sql`${t.forId} is not null`),
    index('case_order')
      .on(t.orderId)
      .where(sql`${t.orderId} is not null`),
    index('case_item').on(t.itemId, t.number),
    index('case_outcome').on(t.outcome, t.number),
    index('case_open')
      .on(t.number)
      .where(sql`${t.outcome} is null`),
    index('case_open_item')
      .on(t.itemId)
      .where(sql`${t.outcome} is null`),
    // Requests and tickets have lists of their own: each in each order, however many there are of the other.
    ...(['request', 'ticket'] as const).flatMap((kind) => {
      const of = sql.raw(`kind = '${kind}'`);
      return [
        index(`case_${kind}`).on(t.number).where(of),
        index(`case_${kind}_opened`).on(t.openedAt, t.number).where(of),
        index(`case_${kind}_ended`).on(t.endedOrder, t.number).where(of),
      ];
    }),
    index('case_words').using('gin', sql`to_tsvector('simple', left(${t.words}, 100000))`),
    uniqueIndex('case_once').on(t.requesterId, t.idempotencyKey),
    check('case_request', sql`${t.kind} <> 'request' or (${t.itemId} is not null and ${t.revisionId} is not null)`),
  ],
);

/** What a request has of its item; the check `case_request` holds every case of that kind to having it. */
export const ofRequest = { itemId: sql<string>`${serviceCase.itemId}`, revisionId: sql<string>`${serviceCase.revisionId}` };

/** A plan under way for a case: the snapshot after the event numbered `seq`. */
export const run = pgTable(
  'run',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    caseId: uuid('case_id')
      .notNull()
      .references(() => serviceCase.id),
    /** The revision whose plan it follows to its end. */
    revisionId: uuid('revision_id')
      .notNull()
      .references(() => revision.id),
    beganAt: when('began_at').notNull(),
    endedAt: when('ended_at'),
    outcome: text('outcome', { enum: outcomes }),
    seq: integer('seq').notNull().default(0),
    state: document('state', runFormat).notNull(),
    /** When somebody is next to be told how its promises stand; nothing where nobody is, or while they are held. */
    tellAt: when('tell_at'),
    /** Of which promises it was told that they are near or broken. */
    toldOf: text('told_of').array().notNull().default([]),
  },
  (t) => [
    index('run_case').on(t.caseId),
    index('run_tell')
      .on(t.tellAt)
      .where(sql`${t.tellAt} is not null and ${t.endedAt} is null`),
  ],
);

/** Append-only: everything that happened to a run, in order, with what was ignored and why. */
export const runEvent = pgTable(
  'run_event',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    /** Events that were taken are numbered 1, 2, 3; an ignored one carries the number of the last taken. */
    id: bigserial('id', { mode: 'number' }).notNull(),
    seq: integer('seq').notNull(),
    at: when('at').notNull(),
    event: jsonb('event').$type<RunEvent>().notNull(),
    ignored: text('ignored'),
  },
  (t) => [primaryKey({ columns: [t.runId, t.id] })],
);

/** One go at a step, for the trace. */
export const runStep = pgTable(
  'run_step',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    order: bigserial('order', { mode: 'number' }).notNull(),
    step: text('step').notNull(),
    kind: text('kind').notNull(),
    name: text('name').notNull(),
    beganAt: when('began_at').notNull(),
    endedAt: when('ended_at'),
    end: text('end', { enum: stepEnds }),
    inputs: jsonb('inputs').$type<Record<string, Value>>().notNull(),
    outputs: jsonb('outputs').$type<Record<string, Value>>(),
    taken: text('taken'),
    notTaken: jsonb('not_taken').$type<string[]>(),
    note: text('note'),
    stuckCause: text('stuck_cause'),
  },
  (t) => [
    primaryKey({ columns: [t.runId, t.key] }),
    index('run_step_open')
      .on(t.runId)
      .where(sql`${t.endedAt} is null`),
    index('run_step_stuck')
      .on(t.beganAt, t.order)
      .where(sql`${t.stuckCause} is not null`),
    index('run_step_words')
      .using('gin', sql`to_tsvector('simple', left(${t.outputs}::text, 100000))`)
      .where(sql`${t.outputs} is not null`),
  ],
);

/** A moment a run waits for. Set again it moves; the sweep finds those whose job was lost. */
export const timer = pgTable(
  'timer',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    dueAt: when('due_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.key, t.name] }), index('timer_due').on(t.dueAt)],
);

/** Every version of a request's answers but the first, which stands in the run's first event. */
export const answerVersion = pgTable(
  'answer_version',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    at: when('at').notNull(),
    seq: integer('seq').notNull(),
    by: uuid('by')
      .notNull()
      .references(() => person.id),
    changed: jsonb('changed').$type<Answers>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.seq] })],
);
