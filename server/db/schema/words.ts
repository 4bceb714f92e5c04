import { sql } from 'drizzle-orm';
import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { RichText } from '../../../core/values/index.ts';
import { call } from './calls.ts';
import { serviceCase } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** What was said about a case: by whoever asked, by the desk to them, or within the desk. */
export const caseWord = pgTable(
  'case_word',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    caseId: uuid('case_id')
      .notNull()
      .references(() => serviceCase.id),
    at: when('at').notNull(),
    by: uuid('by').references(() => person.id),
    /** Of what was said outside: who said it, as the system named them, and the system. */
    byOutside: text('by_outside'),
    from: text('from', { enum: ['requester', 'desk', 'outside'] }).notNull(),
    /** Within the desk only: who asked does not read it. */
    inside: boolean('inside').notNull(),
    via: text('via', { enum: ['screen', 'mail', 'chat', 'phone', 'system'] }).notNull(),
    text: text('text').notNull(),
    /** The same as it is formatted, when plain words would lose something. */
    content: jsonb('content').$type<RichText>(),
    /** What it came in as: the same message by two ways is one word. */
    cameAs: text('came_as').unique(),
    /** Made by the screen that sent it, behind the case, so that a word sent twice is one. */
    once: text('once').unique(),
  },
  (t) => [index('case_word_case').on(t.caseId, t.at), index('case_word_words').using('gin', sql`to_tsvector('simple', left(${t.text}, 100000))`)],
);

/** A word that is mirrored between a request and what a system has under way for it, in the one way or the other; once. */
export const mirroredWord = pgTable(
  'mirrored_word',
  {
    callId: uuid('call_id')
      .notNull()
      .references(() => call.id),
    wordId: uuid('word_id')
      .notNull()
      .references(() => caseWord.id),
    goes: text('goes', { enum: ['there', 'here'] }).notNull(),
    /** What the system calls it. */
    thereId: text('there_id'),
    /** When it was last sent: as long as nothing came of that, it may be there or not. */
    sentAt: when('sent_at'),
    tries: integer('tries').notNull().default(0),
    /** Until when nobody else sends it. */
    heldUntil: when('held_until'),
    settledAt: when('settled_at'),
    /** Why the system does not have it. */
    refused: text('refused'),
  },
  (t) => [
    primaryKey({ columns: [t.callId, t.wordId] }),
    uniqueIndex('mirrored_word_there').on(t.callId, t.thereId),
    index('mirrored_word_word').on(t.wordId),
  ],
);
