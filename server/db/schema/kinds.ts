import { sql } from 'drizzle-orm';
import { integer, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { kindFormat } from '../../../core/documents/index.ts';
import { document } from './document.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** A kind of ticket, live: a change counts for open tickets too, which are reckoned anew. */
export const ticketKind = pgTable(
  'ticket_kind',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    version: integer('version').notNull().default(1),
    definition: document('definition', kindFormat).notNull(),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [uniqueIndex('ticket_kind_name').on(sql`lower(${t.name})`)],
);
