import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import type { Retries } from '../../../core/plans/index.ts';
import type { Value } from '../../../core/values/index.ts';
import { run } from './cases.ts';
import { when } from './when.ts';

export const call = pgTable(
  'call',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    action: text('action').notNull(),
    inputs: jsonb('inputs').$type<Record<string, Value>>().notNull(),
    /** Run, step, occurrence and round: the same call repeated after a crash carries the same key. */
    idempotencyKey: text('idempotency_key').notNull().unique(),
    retries: jsonb('retries').$type<Retries>().notNull(),
    createdAt: when('created_at').notNull(),
    status: text('status', { enum: ['waiting', 'succeeded', 'failed', 'cancelled'] })
      .notNull()
      .default('waiting'),
    outputs: jsonb('outputs').$type<Record<string, Value>>(),
    /** When the next try is due; the sweep finds calls whose job was lost. */
    dueAt: when('due_at').notNull(),
  },
  (t) => [
    index('call_run').on(t.runId),
    index('call_waiting')
      .on(t.dueAt)
      .where(sql`${t.status} = 'waiting'`),
  ],
);

/** Every try of a call, as the trace shows it. */
export const callTry = pgTable(
  'call_try',
  {
    callId: uuid('call_id')
      .notNull()
      .references(() => call.id),
    n: integer('n').notNull(),
    beganAt: when('began_at').notNull(),
    endedAt: when('ended_at').notNull(),
    ok: text('ok', { enum: ['yes', 'no'] }).notNull(),
    said: text('said').notNull(),
  },
  (t) => [primaryKey({ columns: [t.callId, t.n] })],
);
