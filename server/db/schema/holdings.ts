import { sql } from 'drizzle-orm';
import { date, index, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Value } from '../../../core/values/index.ts';
import { run } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** What a person has been given, since when, by which request. */
export const holding = pgTable(
  'holding',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    kind: text('kind').notNull(),
    what: jsonb('what').$type<Value>().notNull(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    /** The action that gave it; not known of what was given before this was kept. */
    action: text('action'),
    since: when('since').notNull(),
    endedAt: when('ended_at'),
    /** The last day it is lent for. */
    until: date('until'),
    /** When its holder was told that this day is near. */
    toldAt: when('told_at'),
    /** Since when it is being given back, by whom (nobody: its time is over), and why. */
    endingAt: when('ending_at'),
    endingBy: uuid('ending_by').references(() => person.id),
    endingWhy: text('ending_why'),
  },
  (t) => [
    uniqueIndex('holding_key').on(t.runId, t.key),
    index('holding_person').on(t.personId, t.endedAt),
    index('holding_since').on(t.since, t.id),
    index('holding_group')
      .on(sql`(${t.what} ->> 'group')`, t.since, t.id)
      .where(sql`${t.endedAt} is null`),
    index('holding_action')
      .on(t.action)
      .where(sql`${t.endedAt} is null`),
    index('holding_until')
      .on(t.until)
      .where(sql`${t.endedAt} is null and ${t.endingAt} is null and ${t.until} is not null`),
  ],
);

/**
 * That an action did something to what somebody holds: which, by which request. `until`: the day until which it is lent from then on, which
 * was `was` before; null where that stayed as it was.
 */
export const holdingChange = pgTable(
  'holding_change',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    holdingId: uuid('holding_id')
      .notNull()
      .references(() => holding.id),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    action: text('action').notNull(),
    was: date('was'),
    until: date('until'),
    at: when('at').notNull(),
  },
  (t) => [uniqueIndex('holding_change_key').on(t.runId, t.key), index('holding_change_of').on(t.holdingId, t.at)],
);
