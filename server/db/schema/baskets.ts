import { sql } from 'drizzle-orm';
import { bigint, index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Answers } from '../../../core/forms/index.ts';
import { item } from './items.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** What somebody has filled in and means to send with other things. */
export const basketLine = pgTable(
  'basket_line',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id, { onDelete: 'cascade' }),
    /** The number of the revision whose form the answers answer. */
    revision: integer('revision').notNull(),
    answers: jsonb('answers').$type<Answers>().notNull(),
    forId: uuid('for_id').references(() => person.id),
    addedAt: when('added_at').notNull().defaultNow(),
  },
  (t) => [index('basket_of').on(t.personId, t.addedAt)],
);

/** Several requests that were sent in one go; each runs on its own, and all have numbers of one series. */
export const serviceOrder = pgTable(
  'service_order',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    number: bigint('number', { mode: 'number' })
      .notNull()
      .unique()
      .default(sql`nextval('service_case_number_seq')`),
    requesterId: uuid('requester_id')
      .notNull()
      .references(() => person.id),
    openedAt: when('opened_at').notNull().defaultNow(),
    /** Made by the screen that sent it, so that a basket sent twice is one order. */
    idempotencyKey: text('idempotency_key').notNull(),
  },
  (t) => [uniqueIndex('order_once').on(t.requesterId, t.idempotencyKey)],
);
