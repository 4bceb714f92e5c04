import { sql, type SQL } from 'drizzle-orm';
import type { AnyPgColumn } from 'drizzle-orm/pg-core';
import type { Days } from '../../core/lists/index.ts';
import { isId } from '../ids.ts';
import { anywhere } from './like.ts';

type Of = SQL | AnyPgColumn;

/** Any of these records; what is no id of ours is nobody's. One alone is asked for so that an index gives its rows in order. */
export function anyOf(column: Of, ids: string[] | undefined): SQL | undefined {
  const ours = ids?.filter(isId);
  return ours && (ours.length === 1 ? sql`${column} = ${ours[0]}::uuid` : sql`${column} = any(${sql.param(ours)}::uuid[])`);
}

/** On these days as they run in a zone, both included. */
export function onDays(column: Of, days: Days | undefined, zone: string): SQL | undefined {
  if (!days) return undefined;
  const from = days.from && sql`${column} >= (${days.from}::date::timestamp at time zone ${zone})`;
  const to = days.to && sql`${column} < ((${days.to}::date + 1)::timestamp at time zone ${zone})`;
  return from && to ? sql`(${from} and ${to})` : from || to || undefined;
}

/** Each of the typed words somewhere in what holds small letters only. */
export const wordsInSmall = (column: Of, words: string): SQL | undefined =>
  words
    ? sql.join(
        typedWords(words).map((word) => sql`${column} like ${anywhere(word)}`),
        sql` and `,
      )
    : undefined;

const typedWords = (words: string): string[] => words.toLowerCase().trim().split(/\s+/).slice(0, 6);

/** Each of the typed words somewhere in one of these. */
export const wordsIn = (columns: Of[], words: string): SQL | undefined =>
  words
    ? sql.join(
        typedWords(words).map(
          (word) =>
            sql`(${sql.join(
              columns.map((c) => sql`lower(${c}) like ${anywhere(word)}`),
              sql` or `,
            )})`,
        ),
        sql` and `,
      )
    : undefined;

/** Every typed word, or what begins with it, in an index of words (`to_tsvector('simple', …)`); what holds no word finds nothing. */
export const soughtWords = (words: string): SQL =>
  sql`(${sql.join(
    typedWords(words).map((word) => sql`to_tsquery('simple', ${`'${word.replace(/['\\]/g, ' ')}':*`})`),
    sql` && `,
  )})`;

/** No list says how many it holds beyond this. */
export const countedTo = 1000;
/** How many rows a question has, counted no further than `countedTo`, and one more where there are more. */
export const counted = (question: SQL): SQL => sql`select count(*)::int as n from (${question} limit ${countedTo + 1}) as counted`;

/** All of these that there are, as the condition of a question. */
export function allOf(conditions: (SQL | undefined)[]): SQL {
  const given = conditions.filter((c) => c !== undefined);
  return given.length > 0 ? sql.join(given, sql` and `) : sql`true`;
}
