import { index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import type { ItemDefinition } from '../../../core/items/index.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** What one taking in of a file made and changed, so that it can be taken back. */
export interface TakenIn {
  /** `before`: the draft that stood there; undefined where the item was made. `version`: of the draft afterwards. */
  items: { id: string; version: number; before?: ItemDefinition | undefined }[];
  policies: { id: string }[];
  tables: { id: string; stamp: string }[];
}

/** Files of items that were taken in. */
export const bundleImport = pgTable(
  'bundle_import',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** What the item is called. */
    name: text('name').notNull(),
    itemId: uuid('item_id').notNull(),
    by: uuid('by')
      .notNull()
      .references(() => person.id),
    at: when('at').notNull().defaultNow(),
    did: jsonb('did').$type<TakenIn>().notNull(),
    takenBackAt: when('taken_back_at'),
  },
  (t) => [index('bundle_import_at').on(t.at)],
);
