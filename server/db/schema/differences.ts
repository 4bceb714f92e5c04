import { sql } from 'drizzle-orm';
import { boolean, date, index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { settledHow } from '../../../core/posts/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { holding } from './holdings.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** The last reading of what a system has. */
export const systemReading = pgTable('system_reading', {
  /** As its owners are kept by it: the id of a registered one, or the word for one that is built in. */
  system: text('system').primaryKey(),
  askedAt: when('asked_at').notNull(),
  /** Nobody: it was the nightly one. */
  askedBy: uuid('asked_by').references(() => person.id),
  beganAt: when('began_at'),
  endedAt: when('ended_at'),
  /** When the last one began that was whole: what is held since before then and is not missing was there. */
  soundAt: when('sound_at'),
  /** How many things it has, and how many of its rows made no sense. */
  things: integer('things').notNull().default(0),
  odd: integer('odd').notNull().default(0),
  /** All that it has was read; only then is what it does not name taken for missing. */
  whole: boolean('whole').notNull().default(false),
  /** Why it could not be read, or not whole. */
  cause: text('cause'),
});

/** How what a system has can differ from what is held here. */
export const differs = ['missing', 'unknown', 'until'] as const;

/** Something that a system has and nobody holds here, that somebody holds and the system has not, or that it lends until another day. */
export const difference = pgTable(
  'difference',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    system: text('system').notNull(),
    /** The action that gives such a thing. */
    action: text('action').notNull(),
    kind: text('kind').notNull(),
    what: jsonb('what').$type<Value>().notNull(),
    /** Whose it is: as the system says, else as it is held here. */
    personId: uuid('person_id').references(() => person.id),
    is: text('is', { enum: differs }).notNull(),
    holdingId: uuid('holding_id').references(() => holding.id, { onDelete: 'cascade' }),
    /** The last day it is lent for, as the system says. */
    until: date('until'),
    /** What the action would have answered of it. */
    outputs: jsonb('outputs').$type<Record<string, Value>>().notNull(),
    foundAt: when('found_at').notNull(),
    /** The last reading that found it. */
    seenAt: when('seen_at').notNull(),
    /** Gone: a later reading did not find it any more. */
    state: text('state', { enum: ['open', 'left', 'settled', 'gone'] })
      .notNull()
      .default('open'),
    how: text('how', { enum: settledHow }),
    why: text('why'),
    settledAt: when('settled_at'),
    settledBy: uuid('settled_by').references(() => person.id),
  },
  (t) => [
    // Those that stand: one of a kind.
    uniqueIndex('difference_once')
      .on(t.action, t.is, sql`md5(${t.what}::text)`, sql`coalesce(${t.personId}, '00000000-0000-0000-0000-000000000000'::uuid)`)
      .where(sql`${t.state} in ('open', 'left')`),
    index('difference_found').on(t.foundAt, t.id),
    index('difference_open')
      .on(t.foundAt, t.id)
      .where(sql`${t.state} = 'open'`),
    index('difference_holding').on(t.holdingId),
    index('difference_person').on(t.personId),
  ],
);
