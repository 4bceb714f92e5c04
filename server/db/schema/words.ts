import { sql } from 'drizzle-orm';
import { boolean, index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import type { RichText } from '../../../core/values/index.ts';
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
    from: text('from', { enum: ['requester', 'desk'] }).notNull(),
    /** Within the desk only: who asked does not read it. */
    inside: boolean('inside').notNull(),
    via: text('via', { enum: ['screen', 'mail', 'chat', 'phone'] }).notNull(),
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
