import { sql } from 'drizzle-orm';
import { bigint, index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { person } from './people.ts';
import { when } from './when.ts';

/** Append-only by trigger and by permission: who did what to which object. */
export const changeLog = pgTable(
  'change_log',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    at: when('at').notNull().defaultNow(),
    actorId: uuid('actor_id'),
    action: text('action').notNull(),
    object: text('object').notNull(),
    objectId: text('object_id').notNull(),
    detail: jsonb('detail').$type<Record<string, unknown>>().notNull(),
  },
  (t) => [
    // Each in the order of the list of changes.
    index('change_log_at').on(t.at, t.id),
    index('change_log_object').on(t.object, t.at, t.id),
    index('change_log_of').on(t.objectId, t.object),
    index('change_log_actor').on(t.actorId, t.at, t.id),
    index('change_log_words').using('gin', sql`to_tsvector('simple', ${t.action} || ' ' || ${t.objectId} || ' ' || left(${t.detail}::text, 100000))`),
  ],
);

/** Entries of the log that do not hang in the chain yet: written with each by the database, gone once it does. */
export const changeWaiting = pgTable('change_waiting', {
  changeId: bigint('change_id', { mode: 'number' })
    .primaryKey()
    .references(() => changeLog.id),
});

/**
 * The chain of the log of changes: a hash over each entry and the hash before it, written by the database. A commit hangs its
 * entry in at once where no other is at it; else the next one does, or the sweep.
 */
export const changeChain = pgTable('change_chain', {
  n: bigint('n', { mode: 'number' }).primaryKey(),
  changeId: bigint('change_id', { mode: 'number' })
    .notNull()
    .unique()
    .references(() => changeLog.id),
  /** SHA-256 in hex. */
  hash: text('hash').notNull(),
});

/** What could not be dealt with and was put aside, so that the rest goes on: an administrator looks at it. */
export const setAside = pgTable(
  'set_aside',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    source: text('source', { enum: ['job', 'chat', 'mail', 'directory', 'staff'] }).notNull(),
    /** What it is, so that the same thing failing again is one entry. */
    key: text('key').notNull(),
    what: text('what').notNull(),
    cause: text('cause').notNull(),
    /** As it came, for trying again. */
    payload: text('payload').notNull(),
    times: integer('times').notNull().default(1),
    firstAt: when('first_at').notNull().defaultNow(),
    lastAt: when('last_at').notNull().defaultNow(),
    settledAt: when('settled_at'),
    settledBy: uuid('settled_by').references(() => person.id),
    settled: text('settled', { enum: ['tried again', 'discarded'] }),
  },
  (t) => [
    uniqueIndex('set_aside_open')
      .on(t.source, t.key)
      .where(sql`${t.settledAt} is null`),
    index('set_aside_last').on(t.lastAt, t.id),
  ],
);
