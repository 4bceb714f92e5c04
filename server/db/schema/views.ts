import { sql } from 'drizzle-orm';
import { pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { ListName } from '../../../core/lists/index.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** A list as somebody wants to find it again: narrowed, ordered, with its columns. */
export const keptView = pgTable(
  'kept_view',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    list: text('list').$type<ListName>().notNull(),
    name: text('name').notNull(),
    /** What is asked, as the address says it. */
    asked: text('asked').notNull(),
    keptAt: when('kept_at').notNull().defaultNow(),
  },
  (t) => [uniqueIndex('kept_view_name').on(t.personId, t.list, sql`lower(${t.name})`)],
);
