import { sql } from 'drizzle-orm';
import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { routingFormat, ticketFormat } from '../../../core/documents/index.ts';
import type { Answers } from '../../../core/forms/index.ts';
import { links, type TicketEvent } from '../../../core/tickets/index.ts';
import { run, serviceCase } from './cases.ts';
import { document } from './document.ts';
import { ticketKind } from './kinds.ts';
import { location, person, team } from './people.ts';
import { when } from './when.ts';

/** Who gets a ticket, by what is known of it; live. */
export const routingTable = pgTable(
  'routing_table',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    version: integer('version').notNull().default(1),
    definition: document('definition', routingFormat).notNull(),
    /** Tickets are routed by this one. */
    forTickets: boolean('for_tickets').notNull().default(false),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('routing_table_name').on(sql`lower(${t.name})`),
    uniqueIndex('routing_table_for_tickets')
      .on(t.forTickets)
      .where(sql`${t.forTickets}`),
  ],
);

/** Whose turn it was last in a team that is given tickets in turn. */
export const routingTurn = pgTable('routing_turn', {
  teamId: uuid('team_id')
    .primaryKey()
    .references(() => team.id),
  lastId: uuid('last_id')
    .notNull()
    .references(() => person.id),
});

/** A ticket: what a case of the desk is about and where it stands. The columns beside `state` are what lists ask for. */
export const ticket = pgTable(
  'ticket',
  {
    caseId: uuid('case_id')
      .primaryKey()
      .references(() => serviceCase.id),
    kindId: uuid('kind_id')
      .notNull()
      .references(() => ticketKind.id),
    subject: text('subject').notNull(),
    category: text('category'),
    placeId: uuid('place_id').references(() => location.id),
    /** What the desk filled in. */
    filled: jsonb('filled').$type<Answers>().notNull().default({}),
    /** What whoever asked said once it was done. */
    helped: boolean('helped'),
    seq: integer('seq').notNull(),
    state: document('state', ticketFormat).notNull(),
    status: text('status').notNull(),
    priority: text('priority').notNull(),
    teamId: uuid('team_id').references(() => team.id),
    holderId: uuid('holder_id').references(() => person.id),
    dueAt: when('due_at'),
    /** By what a queue is ordered: when it is due, and after all of those what is never due. */
    dueOrder: when('due_order')
      .generatedAlwaysAs(sql`coalesce(due_at, '9999-01-01 00:00:00+00'::timestamptz)`)
      .notNull(),
    responseDueAt: when('response_due_at'),
    /** When something happens by itself next. */
    nextAt: when('next_at'),
    endedAt: when('ended_at'),
    /** Where it came from in chat: the room, and the message it was, in whose thread it is answered. */
    chatRoom: text('chat_room'),
    chatRoot: text('chat_root').unique(),
    /** The run that asks whether it may go where somebody wants it; none: nothing is asked. */
    askingId: uuid('asking_id').references(() => run.id),
    /** The ticket that this one went into: what is said of it is said there. */
    joinedId: uuid('joined_id').references(() => serviceCase.id),
  },
  (t) => [
    index('ticket_asking')
      .on(t.askingId)
      .where(sql`${t.askingId} is not null`),
    index('ticket_joined')
      .on(t.joinedId)
      .where(sql`${t.joinedId} is not null`),
    index('ticket_open_team')
      .on(t.teamId, t.dueOrder, t.caseId)
      .where(sql`${t.endedAt} is null`),
    index('ticket_open_holder')
      .on(t.holderId, t.dueOrder, t.caseId)
      .where(sql`${t.endedAt} is null`),
    index('ticket_open_kind')
      .on(t.kindId, t.status)
      .where(sql`${t.endedAt} is null`),
    index('ticket_open_place')
      .on(t.placeId, t.dueOrder, t.caseId)
      .where(sql`${t.endedAt} is null and ${t.placeId} is not null`),
    index('ticket_next').on(t.nextAt),
    index('ticket_words').using('gin', sql`to_tsvector('simple', ${t.subject})`),
  ],
);

/** Append-only: everything that happened to a ticket, in order. */
export const ticketEvent = pgTable(
  'ticket_event',
  {
    caseId: uuid('case_id')
      .notNull()
      .references(() => serviceCase.id),
    seq: integer('seq').notNull(),
    at: when('at').notNull(),
    by: uuid('by').references(() => person.id),
    event: jsonb('event').$type<TicketEvent>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.caseId, t.seq] })],
);

/** What one case has to do with another: it is like it, was split off it, follows it, was begun from it. */
export const caseLink = pgTable(
  'case_link',
  {
    fromId: uuid('from_id')
      .notNull()
      .references(() => serviceCase.id),
    toId: uuid('to_id')
      .notNull()
      .references(() => serviceCase.id),
    how: text('how', { enum: links }).notNull(),
    by: uuid('by').references(() => person.id),
    at: when('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.fromId, t.toId, t.how] }), index('case_link_to').on(t.toId)],
);

/** Who has a ticket open just now, and whether they write; a row that is not renewed counts for nothing after a minute. */
export const ticketReader = pgTable(
  'ticket_reader',
  {
    caseId: uuid('case_id')
      .notNull()
      .references(() => serviceCase.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    writes: boolean('writes').notNull(),
    at: when('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.caseId, t.personId] })],
);
