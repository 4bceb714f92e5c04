import { sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import type { Reader } from '../db/database.ts';
import { setAside as table } from '../db/schema/index.ts';
import { log } from '../log.ts';

type Source = typeof table.$inferInsert.source;
/** What can be tried again. Who sent a reply by mail was told when it came, and a line of the staff feed comes again once it is mended there; they can only be discarded. */
export type TriedAgain = Exclude<Source, 'mail' | 'staff'>;
/** Whether it can be tried again. */
export const canBeTriedAgain = (source: Source): source is TriedAgain => source !== 'mail' && source !== 'staff';

/**
 * Puts something aside that could not be dealt with, with its cause, so that the rest goes on. The same thing failing again
 * is the same entry, counted.
 */
export async function putAside(tx: Reader, it: { source: Source; key: string; what: string; cause: unknown; payload: unknown }): Promise<void> {
  const cause = heard(causeWords(it.cause), 1000);
  log.warn({ source: it.source, key: heard(it.key, 200), cause }, 'set aside');
  await tx
    .insert(table)
    .values({
      source: it.source,
      key: heard(it.key, 300),
      what: heard(it.what, 300),
      cause,
      payload: heard(typeof it.payload === 'string' ? it.payload : (JSON.stringify(it.payload) ?? ''), 20_000),
    })
    .onConflictDoUpdate({
      target: [table.source, table.key],
      targetWhere: sql`${table.settledAt} is null`,
      set: { cause, times: sql`${table.times} + 1`, lastAt: new Date() },
    });
}

/** Why something failed, in words fit for a log and for a page: never the values that a statement carried. */
export function causeWords(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  // Drizzle's own message repeats the statement with its values; the database's message says what was wrong.
  return error.cause instanceof Error && error.message.startsWith('Failed query') ? error.cause.message : error.message;
}
