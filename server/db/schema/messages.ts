import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import type { Invitation } from '../../../core/formats/index.ts';
import type { RichText } from '../../../core/values/index.ts';
import { run, serviceCase } from './cases.ts';
import { invited } from './meetings.ts';
import { approval } from './approvals.ts';
import { person } from './people.ts';
import { when } from './when.ts';

export const message = pgTable(
  'message',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** The case whose conversation it is part of, and the run that sent it; about a ticket the desk writes without one. */
    caseId: uuid('case_id')
      .notNull()
      .references(() => serviceCase.id),
    runId: uuid('run_id').references(() => run.id),
    key: text('key').notNull(),
    toId: uuid('to_id')
      .notNull()
      .references(() => person.id),
    toAddress: text('to_address').notNull(),
    subject: text('subject').notNull(),
    text: text('text').notNull(),
    /** The formatted text without references, when plain words would lose something. */
    content: jsonb('content').$type<RichText>(),
    /** Of an invitation, or that it is off: whose, and until it is sent what calendar programs read. */
    invitedId: uuid('invited_id').references(() => invited.id, { onDelete: 'set null' }),
    invitation: jsonb('invitation').$type<Invitation>(),
    /** The files that go with it. */
    files: uuid('files').array(),
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
    index('message_case').on(t.caseId, t.createdAt),
    index('message_words').using('gin', sql`to_tsvector('simple', left(${t.subject} || ' ' || ${t.text}, 100000))`),
    index('message_unsent')
      .on(t.createdAt)
      .where(sql`${t.sentAt} is null and ${t.failedAt} is null`),
  ],
);

/** How far chat has been read, and what was answered there; an event counts once, however often it is read. */
export const chatCursor = pgTable('chat_cursor', { id: integer('id').primaryKey(), since: text('since').notNull() });
export const chatReply = pgTable('chat_reply', { event: text('event').primaryKey(), at: when('at').notNull() });
