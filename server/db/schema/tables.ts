import { sql } from 'drizzle-orm';
import { bigint, boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { tableFormat } from '../../../core/documents/index.ts';
import type { Cells } from '../../../core/tables/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { document } from './document.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** A reference table: facts that others keep, read by plans at the moment they are used. */
export const referenceTable = pgTable(
  'reference_table',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    definition: document('definition', tableFormat).notNull(),
    /** Counts the changes of its columns and key; a change names the one it was made from. */
    version: integer('version').notNull().default(1),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
    /** A published form offers its rows, or has: whoever may sign in may find them by name, and their key stays what it is. */
    offered: boolean('offered').notNull().default(false),
  },
  (t) => [uniqueIndex('reference_table_name').on(sql`lower(${t.name})`)],
);

/** A row of a reference table. One that is taken off stays, for what has picked it; it is offered no more. */
export const referenceRow = pgTable(
  'reference_row',
  {
    tableId: uuid('table_id')
      .notNull()
      .references(() => referenceTable.id),
    /** The texts of its key columns, as `keyOf` of the core writes them. */
    key: text('key').notNull(),
    cells: jsonb('cells').$type<Cells>().notNull(),
    /** Its key in words on a line of its own, then everything that stands in it; in small letters, as it was called when it was written: for finding it. */
    words: text('words').notNull(),
    version: integer('version').notNull().default(1),
    changedAt: when('changed_at').notNull().defaultNow(),
    retiredAt: when('retired_at'),
  },
  (t) => [
    primaryKey({ columns: [t.tableId, t.key] }),
    index('reference_row_words').using('gin', sql`${t.words} gin_trgm_ops`),
    index('reference_row_there')
      .on(t.tableId, t.key)
      .where(sql`${t.retiredAt} is null`),
  ],
);

/** What was changed in a row, cell by cell; nothing of it is ever rewritten. */
export const referenceChange = pgTable(
  'reference_change',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    tableId: uuid('table_id').notNull(),
    key: text('key').notNull(),
    /** The column; null: the row itself was added, taken off or brought back. */
    columnId: text('column_id'),
    was: jsonb('was').$type<Value>(),
    now: jsonb('now').$type<Value>(),
    by: uuid('by').references(() => person.id),
    at: when('at').notNull().defaultNow(),
  },
  (t) => [index('reference_change_row').on(t.tableId, t.key, t.id), index('reference_change_last').on(t.tableId, t.id)],
);

/** How the reading of a table that is read from a system went; no row: it was never read. */
export const tableReading = pgTable(
  'table_reading',
  {
    tableId: uuid('table_id')
      .primaryKey()
      .references(() => referenceTable.id),
    askedAt: when('asked_at').notNull(),
    /** Nobody: it was time for it. */
    askedBy: uuid('asked_by').references(() => person.id),
    beganAt: when('began_at'),
    endedAt: when('ended_at'),
    /** When it is read again by itself; null: not any more. */
    nextAt: when('next_at'),
    /** When the last one began that took all that the list has. */
    soundAt: when('sound_at'),
    /** How many rows the list had, and how many of them could not be taken. */
    rows: integer('rows').notNull().default(0),
    odd: integer('odd').notNull().default(0),
    /** Why some could not, of the first few. */
    problems: jsonb('problems').$type<string[]>().notNull().default([]),
    /** Why the list could not be read. */
    cause: text('cause'),
  },
  (t) => [index('table_reading_next').on(t.nextAt)],
);

/** What may have become of what follows a row. */
export const rowAskedStates = ['open', 'asked', 'refused', 'over'] as const;

/** Something that follows a row that was read: an item is asked for, once. */
export const rowAsked = pgTable(
  'row_asked',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    tableId: uuid('table_id')
      .notNull()
      .references(() => referenceTable.id),
    key: text('key').notNull(),
    at: when('at').notNull(),
    state: text('state', { enum: rowAskedStates }).notNull().default('open'),
    /** Who asked; stated before it is asked, and then always the same. */
    asksId: uuid('asks_id').references(() => person.id),
    /** The number of what was asked for. */
    request: integer('request'),
    /** Why it could not be asked for. */
    why: text('why'),
  },
  (t) => [
    index('row_asked_row').on(t.tableId, t.key, t.at),
    index('row_asked_open')
      .on(t.at)
      .where(sql`${t.state} = 'open'`),
  ],
);
