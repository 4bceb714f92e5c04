import { integer, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import { person } from './people.ts';
import { when } from './when.ts';

/** How files of evidence are named; one row at most, and without it the usual name holds. */
export const evidenceNaming = pgTable('evidence_naming', {
  id: integer('id').primaryKey().default(1),
  pattern: text('pattern').notNull(),
  changedBy: uuid('changed_by').references(() => person.id),
  changedAt: when('changed_at').notNull(),
});
