import { sql } from 'drizzle-orm';
import { date, index, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { accessGroup, person } from './people.ts';
import { when } from './when.ts';

/** Two groups that are not to meet in one person: why, and who may make an exception. */
export const keptApart = pgTable(
  'kept_apart',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    oneId: uuid('one_id')
      .notNull()
      .references(() => accessGroup.id),
    otherId: uuid('other_id')
      .notNull()
      .references(() => accessGroup.id),
    why: text('why').notNull(),
    excepters: uuid('excepters').array().notNull(),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull(),
    /** Since when they are not kept apart any more. */
    endedAt: when('ended_at'),
  },
  (t) => [
    // The one with the smaller id first, so that two make one pair.
    uniqueIndex('kept_apart_pair').on(t.oneId, t.otherId),
    index('kept_apart_other').on(t.otherId),
  ],
);

/** Somebody may have both all the same, until a day where one is named. */
export const apartException = pgTable(
  'apart_exception',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    pairId: uuid('pair_id')
      .notNull()
      .references(() => keptApart.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    until: date('until'),
    why: text('why').notNull(),
    byId: uuid('by_id')
      .notNull()
      .references(() => person.id),
    at: when('at').notNull(),
    endedAt: when('ended_at'),
    endedBy: uuid('ended_by').references(() => person.id),
  },
  (t) => [
    uniqueIndex('apart_exception_open')
      .on(t.pairId, t.personId)
      .where(sql`${t.endedAt} is null`),
    index('apart_exception_pair').on(t.pairId, t.at),
    index('apart_exception_person').on(t.personId),
  ],
);
