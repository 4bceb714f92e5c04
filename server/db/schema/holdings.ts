import { index, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
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
    since: when('since').notNull(),
    endedAt: when('ended_at'),
  },
  (t) => [uniqueIndex('holding_key').on(t.runId, t.key), index('holding_person').on(t.personId, t.endedAt), index('holding_since').on(t.since, t.id)],
);
