import { sql } from 'drizzle-orm';
import { boolean, index, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { GateRule } from '../../../core/plans/index.ts';
import { run } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';

export const gate = pgTable(
  'gate',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id),
    key: text('key').notNull(),
    name: text('name').notNull(),
    rule: jsonb('rule').$type<GateRule>().notNull(),
    openedAt: when('opened_at').notNull(),
    closedAt: when('closed_at'),
    result: text('result', { enum: ['approved', 'declined', 'lapsed', 'returned', 'withdrawn'] }),
    /** Fields approvers may correct, by id. */
    corrects: jsonb('corrects').$type<string[]>().notNull().default([]),
    sendBack: boolean('send_back').notNull().default(false),
    lapsesAt: when('lapses_at'),
    decidedBy: uuid('decided_by').references(() => person.id),
  },
  (t) => [uniqueIndex('gate_key').on(t.runId, t.key)],
);

/** What one approver is asked. `later`: their turn has not come. `waiting` goes to a decision, or to `released` when the gate closed without it. */
export const approval = pgTable(
  'approval',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    gateId: uuid('gate_id')
      .notNull()
      .references(() => gate.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    insteadOfId: uuid('instead_of_id').references(() => person.id),
    status: text('status', { enum: ['later', 'waiting', 'approved', 'declined', 'released'] })
      .notNull()
      .default('waiting'),
    comment: text('comment').notNull().default(''),
    askedAt: when('asked_at').notNull(),
    decidedAt: when('decided_at'),
    /** When it was decided, or not needed any more. */
    overAt: when('over_at'),
    /** SHA-256 of the one-time token that went out by mail. */
    tokenHash: text('token_hash').unique(),
    tokenExpiresAt: when('token_expires_at'),
    tokenUsedAt: when('token_used_at'),
  },
  (t) => [
    uniqueIndex('approval_once').on(t.gateId, t.personId),
    index('approval_waiting')
      .on(t.personId, t.askedAt)
      .where(sql`${t.status} = 'waiting'`),
    index('approval_words')
      .using('gin', sql`to_tsvector('simple', ${t.comment})`)
      .where(sql`${t.comment} <> ''`),
    index('approval_decided')
      .on(t.decidedAt, t.id)
      .where(sql`${t.decidedAt} is not null`),
    index('approval_over')
      .on(t.personId, t.overAt)
      .where(sql`${t.overAt} is not null`),
  ],
);
