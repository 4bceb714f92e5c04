import { sql } from 'drizzle-orm';
import { bigint, boolean, date, index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { staffFollowed, type Happening, type StaffRecord, type StaffRule, type Standing } from '../../../core/staff/index.ts';
import { item } from './items.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** How far the staff feed is read, and how its last reading went; one row. */
export const staffFeed = pgTable('staff_feed', {
  id: integer('id').primaryKey().default(1),
  /** The last line that was taken over. */
  after: bigint('after', { mode: 'number' }).notNull().default(0),
  /** What named the page after it when that was read last: empty, where nothing came since. */
  etag: text('etag'),
  /** When somebody last wanted it read now. */
  askedAt: when('asked_at'),
  beganAt: when('began_at'),
  endedAt: when('ended_at'),
  /** How many lines the last reading took over. */
  lines: integer('lines').notNull().default(0),
  /** Why it could not be read, or not to its end. */
  cause: text('cause'),
});

/** What the feed says of an employment now. */
export const staffEmployment = pgTable(
  'staff_employment',
  {
    employment: text('employment').primaryKey(),
    /** Whose it is (`staff_person`). */
    whose: text('whose').notNull(),
    record: jsonb('record').$type<StaffRecord>().notNull(),
  },
  (t) => [index('staff_employment_whose').on(t.whose)],
);

/** Somebody of the feed, by the staff number they had first. */
export const staffPerson = pgTable(
  'staff_person',
  {
    id: text('id').primaryKey(),
    /** All the staff numbers they have had. */
    numbers: text('numbers').array().notNull(),
    standing: jsonb('standing').$type<Standing>().notNull(),
    lastDay: date('last_day'),
    /** The last day that was passed on to them as they are known here. */
    passedOn: date('passed_on'),
  },
  (t) => [
    index('staff_person_numbers').using('gin', t.numbers),
    index('staff_person_to_pass_on')
      .on(t.id)
      .where(sql`${t.lastDay} is distinct from ${t.passedOn}`),
  ],
);

/** What is asked for when something happens; one of a kind. */
export const staffRule = pgTable('staff_rule', {
  kind: text('kind').$type<Happening>().primaryKey(),
  itemId: uuid('item_id')
    .notNull()
    .references(() => item.id),
  asksId: uuid('asks_id')
    .notNull()
    .references(() => person.id),
  answers: jsonb('answers').$type<StaffRule['answers']>().notNull(),
  /** Nothing follows for now; what it asked for is kept. */
  off: boolean('off').notNull().default(false),
  version: integer('version').notNull().default(1),
  changedBy: uuid('changed_by').references(() => person.id),
  changedAt: when('changed_at').notNull().defaultNow(),
});

/** What became of a happening. Open: its item is being asked for; held: somebody has to say that it is so. */
export type Followed = keyof typeof staffFollowed;
const followed = Object.keys(staffFollowed) as [Followed, ...Followed[]];

/** Something that happened to somebody, as the feed told it. */
export const staffHappening = pgTable(
  'staff_happening',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** The line of the feed. */
    number: bigint('number', { mode: 'number' }).notNull(),
    kind: text('kind').$type<Happening>().notNull(),
    whose: text('whose').notNull(),
    staffNumber: text('staff_number').notNull(),
    /** What they are called, for lists. */
    name: text('name').notNull(),
    /** From when it holds, by the feed. */
    from: date('from').notNull(),
    standing: jsonb('standing').$type<Standing>().notNull(),
    changed: jsonb('changed').$type<(keyof Standing)[]>().notNull(),
    at: when('at').notNull(),
    state: text('state', { enum: followed }).notNull(),
    why: text('why'),
    /** Who asks; stated before it is asked, so that a repeat asks as the same person. */
    asksId: uuid('asks_id').references(() => person.id),
    /** The number of the request. */
    request: bigint('request', { mode: 'number' }),
  },
  (t) => [
    uniqueIndex('staff_happening_once').on(t.number, t.kind),
    index('staff_happening_number').on(t.number, t.id),
    index('staff_happening_whose').on(t.whose),
    index('staff_happening_open')
      .on(t.at)
      .where(sql`${t.state} = 'open'`),
  ],
);
