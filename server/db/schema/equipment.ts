import { sql } from 'drizzle-orm';
import { bigserial, boolean, date, index, integer, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { pieceStates } from '../../../core/equipment/index.ts';
import { call } from './calls.ts';
import { run } from './cases.ts';
import { location, person, team } from './people.ts';
import { when } from './when.ts';

/** A kind of equipment. Plans state it by its name, which therefore stays as it is. */
export const equipmentKind = pgTable(
  'equipment_kind',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    /** Each piece is told apart by a serial number or a tag; else they are only counted. */
    marked: boolean('marked').notNull(),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull(),
  },
  (t) => [uniqueIndex('equipment_kind_name').on(sql`lower(${t.name})`)],
);

/** A place where equipment stands, and the team that keeps it there. */
export const stockPlace = pgTable('stock_place', {
  locationId: uuid('location_id')
    .primaryKey()
    .references(() => location.id),
  teamId: uuid('team_id')
    .notNull()
    .references(() => team.id),
  /** Everybody of the team is told by mail of each piece that is to be picked. */
  told: boolean('told').notNull().default(false),
});

/** Fewer than so many of a kind free at a place, and more are to be ordered: up to so many. */
export const stockLevel = pgTable(
  'stock_level',
  {
    kindId: uuid('kind_id')
      .notNull()
      .references(() => equipmentKind.id),
    locationId: uuid('location_id')
      .notNull()
      .references(() => stockPlace.locationId),
    least: integer('least').notNull(),
    upTo: integer('up_to').notNull(),
  },
  (t) => [primaryKey({ columns: [t.kindId, t.locationId] })],
);

/** A piece of equipment: where it stands, or stood last. */
export const piece = pgTable(
  'piece',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    kindId: uuid('kind_id')
      .notNull()
      .references(() => equipmentKind.id),
    /** Its serial number or tag, as it stands on it; null where nothing tells its kind apart. */
    mark: text('mark'),
    locationId: uuid('location_id')
      .notNull()
      .references(() => stockPlace.locationId),
    state: text('state', { enum: pieceStates }).notNull(),
    since: when('since').notNull(),
  },
  (t) => [
    uniqueIndex('piece_mark').on(t.kindId, sql`lower(${t.mark})`),
    index('piece_stock').on(t.kindId, t.locationId, t.state),
    index('piece_since').on(t.since, t.id),
  ],
);

/**
 * What an action wants handed out to somebody: waiting for a piece, set aside, handed out, on its way back, back. `lost`: it did not come
 * back. `cancelled`: it was not wanted any more before it was handed out.
 */
export const issue = pgTable(
  'equipment_issue',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    number: bigserial('number', { mode: 'number' }).notNull().unique(),
    /** That of the call that wants it, by which a repeat of it is known. */
    key: text('key').notNull().unique(),
    callId: uuid('call_id').references(() => call.id),
    runId: uuid('run_id').references(() => run.id),
    kindId: uuid('kind_id')
      .notNull()
      .references(() => equipmentKind.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    /** Where it is wanted. */
    placeId: uuid('place_id').references(() => location.id),
    until: date('until'),
    state: text('state', { enum: ['waiting', 'setAside', 'out', 'dueBack', 'back', 'lost', 'cancelled'] }).notNull(),
    pieceId: uuid('piece_id').references(() => piece.id),
    /** What was handed out, in words that stay. */
    what: text('what'),
    createdAt: when('created_at').notNull(),
    /** When it was picked, and stood ready to be fetched. */
    readyAt: when('ready_at'),
    outAt: when('out_at'),
    outBy: uuid('out_by').references(() => person.id),
    /** When whoever it was handed to said that they have it, or that they have it not. */
    receivedAt: when('received_at'),
    deniedAt: when('denied_at'),
    deniedWhy: text('denied_why'),
    /** The call that wants it back. */
    backCallId: uuid('back_call_id').references(() => call.id),
    dueBackAt: when('due_back_at'),
    backAt: when('back_at'),
    backBy: uuid('back_by').references(() => person.id),
  },
  (t) => [
    index('equipment_issue_waiting')
      .on(t.kindId, t.createdAt, t.id)
      .where(sql`${t.state} = 'waiting'`),
    index('equipment_issue_open')
      .on(t.state, t.createdAt)
      .where(sql`${t.state} in ('waiting', 'setAside', 'dueBack')`),
    index('equipment_issue_person').on(t.personId, t.state),
    index('equipment_issue_piece').on(t.pieceId),
    uniqueIndex('equipment_issue_one')
      .on(t.pieceId)
      .where(sql`${t.state} in ('setAside', 'out', 'dueBack')`),
  ],
);

/** What can become of a piece. Put back: whoever it was set aside for does not get it. Found: it stands here, whatever was known of it. */
export const pieceEvents = ['arrived', 'setAside', 'putBack', 'handedOut', 'cameBack', 'found', 'mended', 'repair', 'missing', 'retired'] as const;

/** What became of a piece. */
export const pieceEvent = pgTable(
  'piece_event',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    pieceId: uuid('piece_id')
      .notNull()
      .references(() => piece.id),
    at: when('at').notNull(),
    /** Null: it came of itself, as a piece is set aside for whoever waits. */
    by: uuid('by').references(() => person.id),
    what: text('what', { enum: pieceEvents }).notNull(),
    locationId: uuid('location_id').references(() => location.id),
    issueId: uuid('issue_id').references(() => issue.id),
    note: text('note').notNull().default(''),
  },
  (t) => [index('piece_event_of').on(t.pieceId, t.at)],
);

/** More of a kind that a place is to get. */
export const stockOrder = pgTable(
  'stock_order',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    kindId: uuid('kind_id')
      .notNull()
      .references(() => equipmentKind.id),
    locationId: uuid('location_id')
      .notNull()
      .references(() => stockPlace.locationId),
    wanted: integer('wanted').notNull(),
    state: text('state', { enum: ['toOrder', 'ordered', 'arrived', 'dropped'] }).notNull(),
    /** By what whoever delivers knows it. */
    reference: text('reference').notNull().default(''),
    expected: date('expected'),
    createdAt: when('created_at').notNull(),
    changedAt: when('changed_at').notNull(),
    changedBy: uuid('changed_by').references(() => person.id),
  },
  (t) => [
    uniqueIndex('stock_order_open')
      .on(t.kindId, t.locationId)
      .where(sql`${t.state} in ('toOrder', 'ordered')`),
  ],
);
