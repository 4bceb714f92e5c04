import { sql } from 'drizzle-orm';
import { integer, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { person } from './people.ts';
import { ticketKind } from './kinds.ts';
import { when } from './when.ts';

/** A way by which tickets come in besides the Counter: an address of ours, or a channel in chat. */
export const intakeWay = pgTable(
  'intake_way',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    via: text('via', { enum: ['mail', 'chat'] }).notNull(),
    /** What stands before the @, or what the channel is called. */
    name: text('name').notNull(),
    kindId: uuid('kind_id')
      .notNull()
      .references(() => ticketKind.id),
    category: text('category'),
    /** Of an address: how people are met whom nobody here knows, and what programs send on their own. */
    unknown: text('unknown', { enum: ['refuse', 'take'] }),
    automatic: text('automatic', { enum: ['leave', 'take'] }),
    version: integer('version').notNull().default(1),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [uniqueIndex('intake_way_name').on(t.via, sql`lower(${t.name})`)],
);
