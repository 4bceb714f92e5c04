import { sql } from 'drizzle-orm';
import { bigint, customType, index, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { serviceCase } from './cases.ts';
import { person } from './people.ts';
import { when } from './when.ts';
import { caseWord } from './words.ts';

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' });

/** A file somebody attached, or a plan wrote. Until it stands in a request (`caseId`) only who brought it knows it, and it is swept after a day. */
export const storedFile = pgTable(
  'stored_file',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    /** Its type by what is in it (RFC 6838), not by its name. */
    type: text('type').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    /** SHA-256 of what is in it, in hex. */
    hash: text('hash').notNull(),
    /** Who brought it; nobody where a plan wrote it. */
    by: uuid('by').references(() => person.id),
    at: when('at').notNull().defaultNow(),
    caseId: uuid('case_id').references(() => serviceCase.id),
    /** The word that it came with. */
    wordId: uuid('word_id').references(() => caseWord.id),
  },
  (t) => [
    index('stored_file_case').on(t.caseId),
    index('stored_file_word')
      .on(t.wordId)
      .where(sql`${t.wordId} is not null`),
    index('stored_file_loose')
      .on(t.by, t.at)
      .where(sql`${t.caseId} is null`),
  ],
);

/** What is in a file, piece by piece, so that it is written and read as a stream. */
export const filePiece = pgTable(
  'file_piece',
  {
    fileId: uuid('file_id')
      .notNull()
      .references(() => storedFile.id, { onDelete: 'cascade' }),
    n: integer('n').notNull(),
    bytes: bytes('bytes').notNull(),
  },
  (t) => [primaryKey({ columns: [t.fileId, t.n] })],
);
