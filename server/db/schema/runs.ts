import { sql } from 'drizzle-orm';
import { bigint, bigserial, boolean, index, integer, jsonb, pgTable, primaryKey, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { runFormat } from '../../../core/documents/index.ts';
import type { RunEvent } from '../../../core/engine/index.ts';
import type { Answers, Field } from '../../../core/forms/index.ts';
import type { Check, GateRule, Retries } from '../../../core/plans/index.ts';
import type { RichText, Value } from '../../../core/values/index.ts';
import { document } from './document.ts';
import { item, revision } from './items.ts';
import { person, team } from './people.ts';

const when = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });
const stepEnd = ['done', 'approved', 'declined', 'lapsed', 'passed', 'withdrawn', 'returned', 'failed', 'skipped', 'takenOver'] as const;
const outcome = ['fulfilled', 'declined', 'withdrawn', 'lapsed', 'failed'] as const;

export const request = pgTable(
  'request',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    number: bigserial('number', { mode: 'number' }).notNull().unique(),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id),
    revisionId: uuid('revision_id')
      .notNull()
      .references(() => revision.id),
    requesterId: uuid('requester_id')
      .notNull()
      .references(() => person.id),
    answers: jsonb('answers').$type<Answers>().notNull(),
    openedAt: when('opened_at').notNull().defaultNow(),
    endedAt: when('ended_at'),
    outcome: text('outcome', { enum: outcome }),
    reason: text('reason'),
    /** Made by the screen that sent it, so that a form sent twice is one request. */
    onceKey: text('once_key').notNull(),
    // The run: the snapshot after the event numbered `seq`.
    seq: integer('seq').notNull().default(0),
    state: document('state', runFormat).notNull(),
  },
  (t) => [
    index('request_requester').on(t.requesterId, t.number),
    index('request_item').on(t.itemId, t.number),
    index('request_outcome').on(t.outcome, t.number),
    index('request_open')
      .on(t.number)
      .where(sql`${t.outcome} is null`),
    index('request_open_item')
      .on(t.itemId)
      .where(sql`${t.outcome} is null`),
    uniqueIndex('request_once').on(t.requesterId, t.onceKey),
  ],
);

/** Append-only: everything that happened to a run, in order, with what was ignored and why. */
export const runEvent = pgTable(
  'run_event',
  {
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    /** Events that were taken are numbered 1, 2, 3; an ignored one carries the number of the last taken. */
    id: bigserial('id', { mode: 'number' }).notNull(),
    seq: integer('seq').notNull(),
    at: when('at').notNull(),
    event: jsonb('event').$type<RunEvent>().notNull(),
    ignored: text('ignored'),
  },
  (t) => [primaryKey({ columns: [t.requestId, t.id] })],
);

/** One go at a step, for the trace. */
export const runStep = pgTable(
  'run_step',
  {
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    order: bigserial('order', { mode: 'number' }).notNull(),
    step: text('step').notNull(),
    kind: text('kind').notNull(),
    name: text('name').notNull(),
    beganAt: when('began_at').notNull(),
    endedAt: when('ended_at'),
    end: text('end', { enum: stepEnd }),
    inputs: jsonb('inputs').$type<Record<string, Value>>().notNull(),
    outputs: jsonb('outputs').$type<Record<string, Value>>(),
    taken: text('taken'),
    notTaken: jsonb('not_taken').$type<string[]>(),
    note: text('note'),
    stuckCause: text('stuck_cause'),
  },
  (t) => [
    primaryKey({ columns: [t.requestId, t.key] }),
    index('run_step_open')
      .on(t.requestId)
      .where(sql`${t.endedAt} is null`),
    index('run_step_stuck')
      .on(t.beganAt, t.order)
      .where(sql`${t.stuckCause} is not null`),
  ],
);

export const gate = pgTable(
  'gate',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    rule: jsonb('rule').$type<GateRule>().notNull(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['approved', 'declined', 'lapsed', 'returned', 'withdrawn'] }),
    /** Fields approvers may correct, by id. */
    corrects: jsonb('corrects').$type<string[]>().notNull().default([]),
    sendBack: boolean('send_back').notNull().default(false),
    lapsesAt: when('lapses_at'),
    decidedBy: uuid('decided_by').references(() => person.id),
  },
  (t) => [uniqueIndex('gate_key').on(t.requestId, t.key)],
);

/** What one approver is asked. `later`: their turn has not come. `waiting` goes to a decision, or to `released` when the gate closed without it. */
export const approval = pgTable(
  'approval',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    gateId: uuid('gate_id')
      .notNull()
      .references(() => gate.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    insteadOfId: uuid('instead_of_id').references(() => person.id),
    status: text('status', { enum: ['later', 'waiting', 'approved', 'declined', 'released'] })
      .notNull()
      .default('waiting'),
    comment: text('comment').notNull().default(''),
    askedAt: when('asked_at').notNull(),
    decidedAt: when('decided_at'),
    /** When it was decided, or not needed any more. */
    overAt: when('over_at'),
    /** SHA-256 of the one-time token that went out by mail. */
    tokenHash: text('token_hash').unique(),
    tokenExpiresAt: when('token_expires_at'),
    tokenUsedAt: when('token_used_at'),
  },
  (t) => [
    uniqueIndex('approval_once').on(t.gateId, t.personId),
    index('approval_waiting')
      .on(t.personId, t.askedAt)
      .where(sql`${t.status} = 'waiting'`),
    index('approval_over')
      .on(t.personId, t.overAt)
      .where(sql`${t.overAt} is not null`),
  ],
);

export const message = pgTable(
  'message',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    toId: uuid('to_id')
      .notNull()
      .references(() => person.id),
    toAddress: text('to_address').notNull(),
    subject: text('subject').notNull(),
    text: text('text').notNull(),
    /** The formatted text without references, when plain words would lose something. */
    content: jsonb('content').$type<RichText>(),
    /** RFC 5322 Message-ID: fixed here, so that a repeated delivery is the same message. */
    messageId: text('message_id').notNull().unique(),
    inReplyTo: text('in_reply_to'),
    /** A gate's mail names the approval it asks for; its link is made when it is sent and kept nowhere in the clear. */
    approvalId: uuid('approval_id').references(() => approval.id),
    via: text('via', { enum: ['mail', 'chat'] })
      .notNull()
      .default('mail'),
    createdAt: when('created_at').notNull(),
    sentAt: when('sent_at'),
    failedAt: when('failed_at'),
    attempts: integer('attempts').notNull().default(0),
    lastError: text('last_error'),
    /** In chat: the event it became, which replies name. */
    chatEvent: text('chat_event').unique(),
  },
  (t) => [
    index('message_request').on(t.requestId, t.createdAt),
    index('message_unsent')
      .on(t.createdAt)
      .where(sql`${t.sentAt} is null and ${t.failedAt} is null`),
  ],
);

export const call = pgTable(
  'call',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    action: text('action').notNull(),
    inputs: jsonb('inputs').$type<Record<string, Value>>().notNull(),
    /** Run, step, occurrence and round: the same call repeated after a crash carries the same key. */
    idempotencyKey: text('idempotency_key').notNull().unique(),
    retries: jsonb('retries').$type<Retries>().notNull(),
    createdAt: when('created_at').notNull(),
    status: text('status', { enum: ['waiting', 'succeeded', 'failed', 'cancelled'] })
      .notNull()
      .default('waiting'),
    outputs: jsonb('outputs').$type<Record<string, Value>>(),
    /** When the next try is due; the sweep finds calls whose job was lost. */
    dueAt: when('due_at').notNull(),
  },
  (t) => [
    index('call_request').on(t.requestId),
    index('call_waiting')
      .on(t.dueAt)
      .where(sql`${t.status} = 'waiting'`),
  ],
);

/** Every try of a call, as the trace shows it. */
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
  },
  (t) => [primaryKey({ columns: [t.callId, t.n] })],
);

/** Work of a person. It belongs to a team or to a person; in a team whoever takes it is `takenBy`. */
export const task = pgTable(
  'task',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    teamId: uuid('team_id').references(() => team.id),
    personId: uuid('person_id').references(() => person.id),
    takenBy: uuid('taken_by').references(() => person.id),
    instructions: jsonb('instructions').$type<RichText>().notNull(),
    checklist: jsonb('checklist').$type<Check[]>().notNull(),
    fields: jsonb('fields').$type<Field[]>().notNull(),
    /** What is filled in and checked off so far. */
    draft: jsonb('draft').$type<{ values: Answers; checked: string[] }>().notNull(),
    dueAt: when('due_at'),
    /** By what a list of tasks is ordered: when it is due, and after all of those what is never due. */
    dueOrder: when('due_order')
      .generatedAlwaysAs(sql`coalesce(due_at, '9999-01-01 00:00:00+00'::timestamptz)`)
      .notNull(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['done', 'withdrawn'] }),
    doneBy: uuid('done_by').references(() => person.id),
  },
  (t) => [
    uniqueIndex('task_key').on(t.requestId, t.key),
    index('task_open_team')
      .on(t.teamId, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
    index('task_open_person')
      .on(t.personId, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
    index('task_open_taken')
      .on(t.takenBy, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
  ],
);

/** A question to the requester, or their own form sent back (`fields` null). While one is open the clock is held. */
export const question = pgTable(
  'question',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    toId: uuid('to_id')
      .notNull()
      .references(() => person.id),
    name: text('name').notNull(),
    words: text('words').notNull(),
    fields: jsonb('fields').$type<Field[]>(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['answered', 'withdrawn'] }),
    values: jsonb('values').$type<Answers>(),
  },
  (t) => [
    uniqueIndex('question_key').on(t.requestId, t.key),
    index('question_open')
      .on(t.toId, t.openedAt)
      .where(sql`${t.closedAt} is null`),
  ],
);

/** A moment a run waits for. Set again it moves; the sweep finds those whose job was lost. */
export const timer = pgTable(
  'timer',
  {
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    dueAt: when('due_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.requestId, t.key, t.name] }), index('timer_due').on(t.dueAt)],
);

/** Every version of a request's answers but the first, which stands in the run's first event. */
export const answerVersion = pgTable(
  'answer_version',
  {
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    at: when('at').notNull(),
    seq: integer('seq').notNull(),
    by: uuid('by')
      .notNull()
      .references(() => person.id),
    changed: jsonb('changed').$type<Answers>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.requestId, t.seq] })],
);

/** What a person has been given, since when, by which request. */
export const holding = pgTable(
  'holding',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    kind: text('kind').notNull(),
    what: jsonb('what').$type<Value>().notNull(),
    requestId: uuid('request_id')
      .notNull()
      .references(() => request.id),
    key: text('key').notNull(),
    since: when('since').notNull(),
    endedAt: when('ended_at'),
  },
  (t) => [uniqueIndex('holding_key').on(t.requestId, t.key), index('holding_person').on(t.personId, t.endedAt)],
);

/** How far chat has been read, and what was answered there; an event counts once, however often it is read. */
export const chatCursor = pgTable('chat_cursor', { id: integer('id').primaryKey(), since: text('since').notNull() });
export const chatReply = pgTable('chat_reply', { event: text('event').primaryKey(), at: when('at').notNull() });

/** A worker process that is, or was, running; its advisory lock tells which. */
export const workerProcess = pgTable('worker_process', {
  lockKey: bigint('lock_key', { mode: 'number' }).primaryKey(),
  workerIds: jsonb('worker_ids').$type<string[]>().notNull(),
  startedAt: when('started_at').notNull().defaultNow(),
});
