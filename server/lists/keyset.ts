import { sql, type SQL } from 'drizzle-orm';
import type { AnyPgColumn } from 'drizzle-orm/pg-core';

/** One thing a list is ordered by; never null, and the last of several is told apart in every row. */
export interface Key {
  of: SQL | AnyPgColumn;
  as: 'timestamptz' | 'bigint' | 'text' | 'uuid';
}

const patterns: Record<Key['as'], RegExp> = {
  timestamptz: /^\d{4}-\d\d-\d\d \d\d:\d\d:\d\d(\.\d{1,6})?[+-]\d\d(:\d\d)?$/,
  bigint: /^\d{1,18}$/,
  text: /^.{0,300}$/s,
  uuid: /^[0-9a-f-]{36}$/,
};

/** Writes where a page ends, as an address can hold it. */
export const cursorOf = (keys: string[]): string => Buffer.from(JSON.stringify(keys)).toString('base64url');

function keysIn(cursor: string | undefined, keys: Key[]): string[] | undefined {
  if (cursor === undefined) return undefined;
  try {
    const given: unknown = JSON.parse(Buffer.from(cursor, 'base64url').toString('utf8'));
    if (!Array.isArray(given) || given.length !== keys.length) return undefined;
    return given.every((k, i): k is string => typeof k === 'string' && patterns[keys[i]!.as].test(k) && !k.includes('\0')) ? given : undefined;
  } catch {
    return undefined;
  }
}

/**
 * A page of a list by its keys: what comes after the row that the cursor names, in order. What is no cursor of this list
 * begins at its beginning. `sortKeys` is to be selected with each row; the last row's make the next cursor.
 */
export function keyset(keys: Key[], down: boolean, cursor: string | undefined): { after: SQL | undefined; orderBy: SQL; sortKeys: SQL<string[]> } {
  const given = keysIn(cursor, keys);
  const list = (parts: SQL[]) => sql.join(parts, sql`, `);
  const way = down ? sql`desc` : sql`asc`;
  const after =
    given &&
    sql`(${list(keys.map((k) => sql`${k.of}`))}) ${down ? sql`<` : sql`>`} (${list(given.map((g, i) => sql`${g}::${sql.raw(keys[i]!.as)}`))})`;
  return {
    after,
    orderBy: list(keys.map((k) => sql`${k.of} ${way}`)),
    sortKeys: sql<string[]>`array[${list(keys.map((k) => sql`${k.of}::text`))}]`,
  };
}

/** A page of rows of which one more than fits was read, and where the next begins; undefined on the last. */
export function pageBy<T extends { sortKeys: string[] }>(rows: T[], size: number): { rows: T[]; next: string | undefined } {
  return { rows: rows.slice(0, size), next: rows.length > size ? cursorOf(rows[size - 1]!.sortKeys) : undefined };
}
