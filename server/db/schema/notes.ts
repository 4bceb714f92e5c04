import { sql } from 'drizzle-orm';
import { index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import { call } from './calls.ts';
import { run } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** A secret for one person, that opens once. What it says is gone once it was opened, taken off, or its time is over. */
export const sealedNote = pgTable(
  'sealed_note',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** The call that brought it; however often it is answered, it brings one note. */
    callId: uuid('call_id')
      .notNull()
      .unique()
      .references(() => call.id),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    /** What was given with it, as holdings know it; one that was made anew has that of the first. */
    key: text('key').notNull(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    /** What its secrets are called, in order. */
    labels: jsonb('labels').$type<string[]>().notNull(),
    /** The secrets themselves, in the same order, encrypted as one. */
    sealed: text('sealed'),
    madeAt: when('made_at').notNull(),
    openUntil: when('open_until').notNull(),
    openedAt: when('opened_at'),
    openedBy: uuid('opened_by').references(() => person.id),
    /** Another was made in its place. */
    replacedAt: when('replaced_at'),
  },
  (t) => [
    index('sealed_note_person').on(t.personId, t.madeAt),
    index('sealed_note_run').on(t.runId, t.key),
    index('sealed_note_over')
      .on(t.openUntil)
      .where(sql`${t.sealed} is not null`),
  ],
);
