import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, text, unique, uuid } from 'drizzle-orm/pg-core';
import type { Letter } from '../../../core/letters/index.ts';
import { run } from './cases.ts';
import { storedFile } from './files.ts';
import { when } from './when.ts';

/** A letter that a plan writes: first its words, from which its file is made, then the file. */
export const letter = pgTable(
  'letter',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    round: integer('round').notNull(),
    status: text('status', { enum: ['waiting', 'written', 'failed', 'withdrawn'] })
      .notNull()
      .default('waiting'),
    /** What stands in it; null once its file is there, or nobody needs it any more. */
    words: jsonb('words').$type<Letter>(),
    fileId: uuid('file_id').references(() => storedFile.id),
    /** Which letter of that name it is in its request, from 1. */
    version: integer('version'),
    createdAt: when('created_at').notNull(),
    closedAt: when('closed_at'),
  },
  (t) => [
    unique('letter_of_step').on(t.runId, t.key, t.round),
    index('letter_file').on(t.fileId),
    index('letter_waiting')
      .on(t.createdAt)
      .where(sql`${t.status} = 'waiting'`),
  ],
);
