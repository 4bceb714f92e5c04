import { sql } from 'drizzle-orm';
import { boolean, index, integer, jsonb, pgTable, text, unique, uuid } from 'drizzle-orm/pg-core';
import type { Effect, TextSnapshot } from '../../../core/engine/index.ts';
import { run } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

type Asked = Extract<Effect, { effect: 'invite' }>;
/** What those invited are told, with the values of the moment in which the step began. */
export interface MeetingWords {
  title: TextSnapshot;
  body: TextSnapshot;
  place?: TextSnapshot;
}

/** A meeting that a plan arranges: first when it may be, then when it is. */
export const meeting = pgTable(
  'meeting',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    round: integer('round').notNull(),
    status: text('status', { enum: ['seeking', 'planned', 'off', 'failed'] })
      .notNull()
      .default('seeking'),
    words: jsonb('words').$type<MeetingWords>().notNull(),
    /** What it is called, and where it is, as whoever asked reads it. */
    title: text('title').notNull(),
    place: text('place').notNull().default(''),
    minutes: integer('minutes').notNull(),
    window: jsonb('window').$type<Asked['window']>().notNull(),
    /** The run waits for what those invited say. */
    waits: boolean('waits').notNull(),
    /** Which telling of it those invited have, from 0 (RFC 5545, SEQUENCE); null: they were not told yet. */
    sequence: integer('sequence'),
    beginsAt: when('begins_at'),
    endsAt: when('ends_at'),
    /** When a time is looked for next, and how often that failed. */
    tryAt: when('try_at').notNull(),
    attempts: integer('attempts').notNull().default(0),
    lastError: text('last_error'),
    createdAt: when('created_at').notNull(),
    closedAt: when('closed_at'),
  },
  (t) => [
    unique('meeting_of_step').on(t.runId, t.key),
    index('meeting_seeking')
      .on(t.tryAt)
      .where(sql`${t.status} = 'seeking'`),
  ],
);

/** Somebody who is invited to a meeting, and what they said of the time it has now. */
export const invited = pgTable(
  'invited',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    meetingId: uuid('meeting_id')
      .notNull()
      .references(() => meeting.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    /** Of the address their answers by mail go to. */
    tokenHash: text('token_hash').notNull().unique(),
    /** They are not invited any more. */
    gone: boolean('gone').notNull().default(false),
    /** They were told of a time, and not since then that it is off. */
    told: boolean('told').notNull().default(false),
    /** Their calendar could not be seen: only their hours, and what we arranged, were looked at. */
    unseen: boolean('unseen').notNull().default(false),
    says: text('says', { enum: ['yes', 'no', 'maybe'] }),
    words: text('words').notNull().default(''),
    saidAt: when('said_at'),
  },
  (t) => [unique('invited_once').on(t.meetingId, t.personId), index('invited_person').on(t.personId)],
);
