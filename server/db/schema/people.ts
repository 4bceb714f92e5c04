import { sql } from 'drizzle-orm';
import { bigint, boolean, date, index, integer, pgTable, primaryKey, text, uniqueIndex, uuid, type AnyPgColumn } from 'drizzle-orm/pg-core';
import type { UserNameRule } from '../../../core/people/index.ts';
import { when } from './when.ts';

export const location = pgTable('location', {
  id: uuid('id').primaryKey().defaultRandom(),
  parentId: uuid('parent_id').references((): AnyPgColumn => location.id),
  kind: text('kind', { enum: ['site', 'building', 'floor', 'vessel'] }).notNull(),
  name: text('name').notNull().unique(),
  /** IANA zone; lookups climb the tree to the nearest one that is set. */
  zone: text('zone'),
});

/** People as the directory last told us; what only this desk knows (away, delegate, sign-in) is kept beside it. */
export const person = pgTable(
  'person',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** The directory's own id; the same person for ever. */
    directoryId: text('directory_id').notNull().unique(),
    userName: text('user_name').notNull(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    managerId: uuid('manager_id').references((): AnyPgColumn => person.id),
    department: text('department'),
    jobRole: text('job_role'),
    /** As the directory knows it (RFC 7643, section 4.3, `employeeNumber`); by it the staff feed knows them. */
    staffNumber: text('staff_number'),
    locationId: uuid('location_id').references(() => location.id),
    active: boolean('active').notNull().default(true),
    /** Since when the directory has them not, or not as somebody who works here. */
    inactiveSince: when('inactive_since'),
    /** When they were last taken over by themselves, after an act of ours: a reading that began before says nothing of them. */
    takenAt: when('taken_at'),
    /** Somebody who asked by a public link: known by a mail address of theirs, never active, in no directory. */
    outside: boolean('outside').notNull().default(false),
    lastDay: date('last_day'),
    /** The last day of which their manager was told that it is near. */
    leaveToldFor: date('leave_told_for'),
    /** When the directory last had another department or job of them than before. */
    movedAt: when('moved_at'),
    /** The move of which their manager was told what they hold still. */
    moveToldFor: when('move_told_for'),
    awayUntil: date('away_until'),
    delegateId: uuid('delegate_id').references((): AnyPgColumn => person.id),
    passwordHash: text('password_hash'),
    /** Their data was taken out; what stands for them is a number. */
    erasedAt: when('erased_at'),
  },
  (t) => [
    uniqueIndex('person_user_name').on(sql`lower(${t.userName})`),
    index('person_by_name').on(sql`lower(${t.name})`, t.id),
    index('person_name').on(sql`lower(${t.name}) text_pattern_ops`),
    index('person_manager').on(t.managerId),
    index('person_staff_number').on(t.staffNumber),
    index('person_moved')
      .on(t.movedAt)
      .where(sql`${t.movedAt} is not null`),
    index('person_email').on(sql`lower(${t.email})`),
    uniqueIndex('person_outside')
      .on(sql`lower(${t.email})`)
      .where(sql`${t.outside}`),
    index('person_name_part').using('gin', sql`lower(${t.name}) gin_trgm_ops`),
    index('person_email_part').using('gin', sql`lower(${t.email}) gin_trgm_ops`),
  ],
);

/** How user names of new accounts are made; one row at most, and without it the default holds. */
export const userNameRule = pgTable('user_name_rule', {
  id: integer('id').primaryKey().default(1),
  form: text('form').$type<UserNameRule['form']>().notNull(),
  most: integer('most').notNull(),
  domain: text('domain').notNull(),
  version: integer('version').notNull().default(1),
  changedBy: uuid('changed_by').references(() => person.id),
  changedAt: when('changed_at').notNull().defaultNow(),
});

/** Who is being given an account: by their staff number, the call that is about it (its idempotency key). Gone once they have it. */
export const accountClaim = pgTable('account_claim', {
  staffNumber: text('staff_number').primaryKey(),
  key: text('key').notNull(),
});

export const role = ['designer', 'auditor', 'administrator', 'teamMember'] as const;
export type Role = (typeof role)[number];

export const roleGrant = pgTable(
  'role_grant',
  {
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    role: text('role', { enum: role }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.role] })],
);

export const team = pgTable('team', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull().unique(),
  locationId: uuid('location_id').references(() => location.id),
});

export const teamMember = pgTable(
  'team_member',
  {
    teamId: uuid('team_id')
      .notNull()
      .references(() => team.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
  },
  (t) => [primaryKey({ columns: [t.teamId, t.personId] }), index('team_member_person').on(t.personId)],
);

/** Groups that grant access; a mirror of the directory. */
export const accessGroup = pgTable(
  'access_group',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    directoryId: text('directory_id').notNull().unique(),
    name: text('name').notNull(),
    purpose: text('purpose').notNull().default(''),
    gone: boolean('gone').notNull().default(false),
  },
  (t) => [
    uniqueIndex('access_group_name')
      .on(sql`lower(${t.name})`)
      .where(sql`not ${t.gone}`),
  ],
);

export const groupPerson = pgTable(
  'group_person',
  {
    groupId: uuid('group_id')
      .notNull()
      .references(() => accessGroup.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    as: text('as', { enum: ['owner', 'member'] }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.groupId, t.personId, t.as] }), index('group_person_person').on(t.personId, t.as)],
);

export const session = pgTable(
  'session',
  {
    /** SHA-256 of the cookie's value; the value itself is nowhere kept. */
    idHash: text('id_hash').primaryKey(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    createdAt: when('created_at').notNull().defaultNow(),
    expiresAt: when('expires_at').notNull(),
    /** To the minute; a session that rests too long is over. */
    seenAt: when('seen_at').notNull().defaultNow(),
    /** From where and with what it was begun, for its owner to recognise it. */
    address: text('address').notNull().default(''),
    agent: text('agent').notNull().default(''),
  },
  (t) => [index('session_expires').on(t.expiresAt), index('session_person').on(t.personId)],
);

/** The table rate-limiter-flexible counts in, so that many web processes share one count. */
export const rateLimit = pgTable('rate_limit', {
  key: text('key').primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
});
