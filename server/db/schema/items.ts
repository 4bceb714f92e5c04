import { ne, sql } from 'drizzle-orm';
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { itemFormat, policyFormat, systemFormat } from '../../../core/documents/index.ts';
import type { Audience, OnBehalf } from '../../../core/items/index.ts';
import { document } from './document.ts';
import { ticketKind } from './kinds.ts';
import { person } from './people.ts';
import { when } from './when.ts';

/** A catalog item: its draft, edited in place; what people can ask for is its published revision. */
export const item = pgTable(
  'item',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    /** A part is drawn and published like an item, and used by the plans of items. What comes by itself (found in a system, given by a condition) goes by a `byItself` one, which nobody draws or asks for. */
    kind: text('kind', { enum: ['item', 'part', 'byItself'] })
      .notNull()
      .default('item'),
    name: text('name').notNull(),
    draft: document('draft', itemFormat).notNull(),
    /** Counts the saves of the draft; a save names the one it was made from. */
    draftVersion: integer('draft_version').notNull().default(1),
    draftBy: uuid('draft_by').references(() => person.id),
    draftAt: when('draft_at').notNull().defaultNow(),
    createdAt: when('created_at').notNull().defaultNow(),
    copiedFromId: uuid('copied_from_id'),
    /** Number of the revision that the Counter offers; null until the first. */
    publishedRevision: integer('published_revision'),
    /** Since when it is neither offered nor shown among the others; requests under way go on. */
    archivedAt: when('archived_at'),
    // What lists show of the draft, so that none of them reads it whole.
    summary: text('summary')
      .generatedAlwaysAs(sql`(draft ->> 'summary')`)
      .notNull(),
    category: text('category')
      .generatedAlwaysAs(sql`(draft ->> 'category')`)
      .notNull(),
  },
  (t) => [
    // What is drawn has a name of its own, and so has what comes by itself.
    uniqueIndex('item_name')
      .on(sql`lower(${t.name})`)
      .where(sql`${t.kind} <> 'byItself'`),
    uniqueIndex('item_by_itself')
      .on(t.name)
      .where(sql`${t.kind} = 'byItself'`),
    index('item_name_part').using('gin', sql`lower(${t.name}) gin_trgm_ops`),
  ],
);

/** Items and parts that people draw: not what stands for what comes by itself. */
export const isDrawn = ne(item.kind, 'byItself');
/** Which of the two it is; for readings that want `isDrawn`. */
export const drawnKind = sql<'item' | 'part'>`${item.kind}`;

/** A category that items stand under, where it has a picture. What categories there are, the items say. */
export const category = pgTable('category', {
  /** Its path in small letters. */
  key: text('key').primaryKey(),
  picture: text('picture').notNull(),
});

/**
 * A frozen definition. Requests stay on the one they began with. It is of an item; or of a kind of ticket, where it is what asks whether a
 * ticket may go from one status to another: made when it is asked first, and no item's.
 */
export const revision = pgTable(
  'revision',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    itemId: uuid('item_id').references(() => item.id),
    kindId: uuid('kind_id').references(() => ticketKind.id),
    /** Counts the revisions of an item; of a kind: its version at the time. */
    number: integer('number').notNull(),
    definition: document('definition', itemFormat).notNull(),
    /** SHA-256 of the definition in RFC 8785 canonical form. */
    contentHash: text('content_hash').notNull(),
    publishedBy: uuid('published_by')
      .notNull()
      .references(() => person.id),
    publishedAt: when('published_at').notNull().defaultNow(),
    note: text('note').notNull().default(''),
    // What lists show of the definition, so that none of them reads it whole.
    name: text('name')
      .generatedAlwaysAs(sql`(definition ->> 'name')`)
      .notNull(),
    summary: text('summary')
      .generatedAlwaysAs(sql`(definition ->> 'summary')`)
      .notNull(),
    category: text('category')
      .generatedAlwaysAs(sql`(definition ->> 'category')`)
      .notNull(),
    // And what it is found by, and for whom.
    alsoCalled: text('also_called').generatedAlwaysAs(sql`(definition ->> 'alsoCalled')`),
    audience: jsonb('audience')
      .$type<Audience>()
      .generatedAlwaysAs(sql`(definition -> 'audience')`),
    onBehalf: jsonb('on_behalf')
      .$type<OnBehalf>()
      .generatedAlwaysAs(sql`(definition -> 'onBehalf')`),
    outsiders: boolean('outsiders')
      .generatedAlwaysAs(sql`coalesce((definition ->> 'outsiders')::boolean, false)`)
      .notNull(),
  },
  (t) => [
    uniqueIndex('revision_number').on(t.itemId, t.number),
    index('revision_hash').on(t.contentHash),
    uniqueIndex('revision_of_kind')
      .on(t.kindId, t.contentHash)
      .where(sql`${t.kindId} is not null`),
    check('revision_of_one', sql`(${t.itemId} is null) <> (${t.kindId} is null)`),
  ],
);

/** A revision that is to be published: at a time, or once a second designer has agreed. What it says does not change with the draft. */
export const itemRelease = pgTable(
  'item_release',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id, { onDelete: 'cascade' }),
    definition: document('definition', itemFormat).notNull(),
    contentHash: text('content_hash').notNull(),
    note: text('note').notNull().default(''),
    askedBy: uuid('asked_by')
      .notNull()
      .references(() => person.id),
    askedAt: when('asked_at').notNull().defaultNow(),
    /** Not before; null: as soon as it may be. */
    dueAt: when('due_at'),
    wantsSecond: boolean('wants_second').notNull(),
    agreedBy: uuid('agreed_by').references(() => person.id),
    agreedAt: when('agreed_at'),
    endedAt: when('ended_at'),
    result: text('result', { enum: ['published', 'taken back', 'stopped'] }),
    /** The revision it became, or why it did not. */
    number: integer('number'),
    reason: text('reason'),
  },
  (t) => [
    uniqueIndex('release_waiting')
      .on(t.itemId)
      .where(sql`${t.endedAt} is null`),
    index('release_due')
      .on(t.dueAt)
      .where(sql`${t.endedAt} is null`),
  ],
);

/** Who has to agree, kept in one place for many items. Live: a change works from the next gate on. */
export const policy = pgTable(
  'policy',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    version: integer('version').notNull().default(1),
    definition: document('definition', policyFormat).notNull(),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [uniqueIndex('policy_name').on(sql`lower(${t.name})`)],
);

/** Every version a policy has had. */
export const policyVersion = pgTable(
  'policy_version',
  {
    policyId: uuid('policy_id')
      .notNull()
      .references(() => policy.id),
    version: integer('version').notNull(),
    definition: document('definition', policyFormat).notNull(),
    by: uuid('by')
      .notNull()
      .references(() => person.id),
    at: when('at').notNull().defaultNow(),
    note: text('note').notNull().default(''),
  },
  (t) => [primaryKey({ columns: [t.policyId, t.version] })],
);

/** Who answers for a system: `directory`, or the id of a registered one. What gives something of it wants the consent of one of them. */
export const systemOwner = pgTable(
  'system_owner',
  {
    system: text('system').notNull(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
  },
  (t) => [primaryKey({ columns: [t.system, t.personId] }), index('system_owner_person').on(t.personId)],
);

/** The consent to an item's using an action that gives something; asked once for an item and action, decided by one owner of the system. */
export const consent = pgTable(
  'consent',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    itemId: uuid('item_id')
      .notNull()
      .references(() => item.id),
    system: text('system').notNull(),
    action: text('action').notNull(),
    /** The action in words, as it was when asked. */
    label: text('label').notNull(),
    askedBy: uuid('asked_by')
      .notNull()
      .references(() => person.id),
    askedAt: when('asked_at').notNull().defaultNow(),
    status: text('status', { enum: ['waiting', 'approved', 'declined'] })
      .notNull()
      .default('waiting'),
    decidedBy: uuid('decided_by').references(() => person.id),
    decidedAt: when('decided_at'),
    comment: text('comment').notNull().default(''),
  },
  (t) => [
    uniqueIndex('consent_once').on(t.itemId, t.action),
    index('consent_waiting')
      .on(t.system, t.askedAt)
      .where(sql`${t.status} = 'waiting'`),
  ],
);

/** An outside service spoken to over HTTP; its actions are offered to plans. Secrets are sealed. */
export const webSystem = pgTable(
  'web_system',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    definition: document('definition', systemFormat).notNull(),
    sealedSecret: text('sealed_secret'),
    /** With what it signs the answers it calls back. */
    sealedAnswerKey: text('sealed_answer_key'),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [uniqueIndex('web_system_name').on(sql`lower(${t.name})`)],
);
