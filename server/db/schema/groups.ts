import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Moving } from '../../../core/groups/index.ts';
import type { Audience } from '../../../core/items/index.ts';
import { serviceCase } from './cases.ts';
import { accessGroup, person } from './people.ts';
import { when } from './when.ts';

/** Who is in a group by itself: the condition that one of its owners keeps. One a group. */
export const groupCondition = pgTable('group_condition', {
  groupId: uuid('group_id')
    .primaryKey()
    .references(() => accessGroup.id),
  members: jsonb('members').$type<Audience>().notNull(),
  why: text('why').notNull(),
  keptBy: uuid('kept_by')
    .notNull()
    .references(() => person.id),
  keptAt: when('kept_at').notNull(),
  version: integer('version').notNull().default(1),
  /** It counts no more. Those who are in by it stay, or go out. */
  ended: text('ended', { enum: ['stay', 'out'] }),
  /** So many at once somebody has said yes to; nobody's word is needed for fewer. */
  sure: jsonb('sure').$type<Moving>().notNull(),
  /** So many would come in and go out, and wait for a word. */
  held: jsonb('held').$type<Moving>(),
  /** When it was last held against who works here. */
  lookedAt: when('looked_at'),
});

/** Somebody of whom the condition of a group holds, and what became of that. Over: it holds of them no more, and nothing is left of it. */
export const groupAdmission = pgTable(
  'group_admission',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    groupId: uuid('group_id')
      .notNull()
      .references(() => groupCondition.groupId),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    at: when('at').notNull(),
    state: text('state', { enum: ['open', 'asked', 'refused', 'over'] })
      .notNull()
      .default('open'),
    why: text('why'),
    /** The request by which they were let in. */
    caseId: uuid('case_id').references(() => serviceCase.id),
  },
  (t) => [
    uniqueIndex('group_admission_once')
      .on(t.groupId, t.personId)
      .where(sql`${t.state} <> 'over'`),
    index('group_admission_person').on(t.personId),
    index('group_admission_open')
      .on(t.at)
      .where(sql`${t.state} = 'open'`),
  ],
);
