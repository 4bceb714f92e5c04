import { sql } from 'drizzle-orm';
import { index, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Answers, Field } from '../../../core/forms/index.ts';
import type { ChecklistItem } from '../../../core/plans/index.ts';
import type { RichText } from '../../../core/values/index.ts';
import { run } from './cases.ts';
import { person, team } from './people.ts';
import { when } from './when.ts';

/** Work of a person. It belongs to a team or to a person; in a team whoever takes it is `takenBy`. */
export const task = pgTable(
  'task',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    teamId: uuid('team_id').references(() => team.id),
    personId: uuid('person_id').references(() => person.id),
    takenBy: uuid('taken_by').references(() => person.id),
    instructions: jsonb('instructions').$type<RichText>().notNull(),
    checklist: jsonb('checklist').$type<ChecklistItem[]>().notNull(),
    fields: jsonb('fields').$type<Field[]>().notNull(),
    /** The fields of the request that whoever does it may correct. */
    corrects: jsonb('corrects').$type<string[]>().notNull().default([]),
    /** What is filled in and checked off so far. */
    draft: jsonb('draft').$type<{ values: Answers; checked: string[] }>().notNull(),
    dueAt: when('due_at'),
    /** By what a list of tasks is ordered: when it is due, and after all of those what is never due. */
    dueOrder: when('due_order')
      .generatedAlwaysAs(sql`coalesce(due_at, '9999-01-01 00:00:00+00'::timestamptz)`)
      .notNull(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['done', 'withdrawn'] }),
    doneBy: uuid('done_by').references(() => person.id),
  },
  (t) => [
    uniqueIndex('task_key').on(t.runId, t.key),
    index('task_open_team')
      .on(t.teamId, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
    index('task_open_person')
      .on(t.personId, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
    index('task_open_taken')
      .on(t.takenBy, t.dueOrder, t.id)
      .where(sql`${t.closedAt} is null`),
  ],
);

/** A question to the requester, or their own form sent back (`fields` null). While one is open the clock is held. */
export const question = pgTable(
  'question',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    toId: uuid('to_id')
      .notNull()
      .references(() => person.id),
    name: text('name').notNull(),
    words: text('words').notNull(),
    fields: jsonb('fields').$type<Field[]>(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['answered', 'withdrawn'] }),
    values: jsonb('values').$type<Answers>(),
    /** The mail by which it was answered, so that the same mail is nothing new when it comes again. */
    cameAs: text('came_as'),
  },
  (t) => [
    uniqueIndex('question_key').on(t.runId, t.key),
    index('question_came_as')
      .on(t.cameAs)
      .where(sql`${t.cameAs} is not null`),
    index('question_open')
      .on(t.toId, t.openedAt)
      .where(sql`${t.closedAt} is null`),
  ],
);
