import { sql } from 'drizzle-orm';
import { index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import type { Answers } from '../../../core/forms/index.ts';
import { serviceCase } from './cases.ts';
import { item } from './items.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** The link by which people without a sign-in ask for an item. Made anew, the one before leads nowhere. */
export const publicLink = pgTable('public_link', {
  itemId: uuid('item_id')
    .primaryKey()
    .references(() => item.id, { onDelete: 'cascade' }),
  token: text('token').notNull().unique(),
  madeBy: uuid('made_by')
    .notNull()
    .references(() => person.id),
  madeAt: when('made_at').notNull().defaultNow(),
});

/** What somebody asks for from outside. Until they have confirmed it by the mail they got, nothing else knows of it. */
export const publicRequest = pgTable(
  'public_request',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    email: text('email').notNull(),
    /** Null once it is confirmed: then the request has them. */
    answers: jsonb('answers').$type<Answers>(),
    /** Of the link in the mail; by it the request is confirmed, and followed from then on. */
    tokenHash: text('token_hash').notNull().unique(),
    askedAt: when('asked_at').notNull(),
    expiresAt: when('expires_at').notNull(),
    caseId: uuid('case_id')
      .unique()
      .references(() => serviceCase.id),
  },
  (t) => [
    index('public_request_item').on(t.itemId),
    index('public_request_expires')
      .on(t.expiresAt)
      .where(sql`${t.caseId} is null`),
  ],
);
