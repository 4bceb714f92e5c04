import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { ItemDefinition } from '../../../core/items/index.ts';
import { person } from './people.ts';

const when = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });

/** A catalog item: its draft, edited in place; what people can ask for is its published revision. */
export const item = pgTable(
  'item',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    draft: jsonb('draft').$type<ItemDefinition>().notNull(),
    /** Counts the saves of the draft; a save names the one it was made from. */
    draftVersion: integer('draft_version').notNull().default(1),
    draftBy: uuid('draft_by').references(() => person.id),
    draftAt: when('draft_at').notNull().defaultNow(),
    createdAt: when('created_at').notNull().defaultNow(),
    copiedFromId: uuid('copied_from_id'),
    /** Number of the revision that the Counter offers; null until the first. */
    publishedRevision: integer('published_revision'),
  },
  (t) => [uniqueIndex('item_name').on(sql`lower(${t.name})`)],
);

/** A frozen definition. Requests stay on the one they began with. */
export const revision = pgTable(
  'revision',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id),
    number: integer('number').notNull(),
    definition: jsonb('definition').$type<ItemDefinition>().notNull(),
    /** SHA-256 of the definition in RFC 8785 canonical form. */
    contentHash: text('content_hash').notNull(),
    publishedBy: uuid('published_by')
      .notNull()
      .references(() => person.id),
    publishedAt: when('published_at').notNull().defaultNow(),
    note: text('note').notNull().default(''),
  },
  (t) => [uniqueIndex('revision_number').on(t.itemId, t.number), index('revision_hash').on(t.contentHash)],
);
