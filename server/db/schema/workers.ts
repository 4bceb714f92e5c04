import { bigint, jsonb, pgTable } from 'drizzle-orm/pg-core';
import { when } from './when.ts';

/** A worker process that is, or was, running; its advisory lock tells which. */
export const workerProcess = pgTable('worker_process', {
  lockKey: bigint('lock_key', { mode: 'number' }).primaryKey(),
  workerIds: jsonb('worker_ids').$type<string[]>().notNull(),
  startedAt: when('started_at').notNull().defaultNow(),
});
