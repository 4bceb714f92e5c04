import { sql, type SQL } from 'drizzle-orm';
import { db } from '../db/database.ts';

/** A word that is found in no more cases than this is looked up first; of others the newest are soon come upon. */
export const rare = 5000;
/** A word that by the statistics stands in so many is not counted: the count alone would take longer than the answer. */
const common = 10 * rare;

/** Where a word stands: the cases it names from outside, and those it stands within. */
export interface WordStands {
  /** Questions for the ids of all of them. */
  outside: SQL;
  inside: SQL;
  /** Whether one case (its row is called `service_case`) is among them. */
  isOutside: SQL;
  isInside: SQL;
}

/**
 * In how many cases a word was asked for, as the planner thinks; nothing is read for it. Of the beginnings of words the statistics know
 * nothing, of whole words what is common: both are asked for, and the sum is at least what either says.
 */
async function likely(word: string): Promise<number> {
  const lexeme = `'${word.replace(/['\\]/g, ' ')}'`;
  const which = (sought: string) => sql`select from service_case where to_tsvector('simple', left(words, 100000)) @@ to_tsquery('simple', ${sought})`;
  const { rows } = await db().execute<{ 'QUERY PLAN': [{ Plan: { 'Plan Rows': number } }] }>(
    sql`explain (format json) ${which(lexeme)} union all ${which(`${lexeme}:*`)}`,
  );
  return rows[0]!['QUERY PLAN'][0].Plan['Plan Rows'];
}

/** Conditions on a case for each typed word, found by its index where it is rare, else come upon; what stands within counts where `sees` holds. */
export async function casesWithWords(typed: string, standing: (word: string) => WordStands, sees: SQL, upTo: number): Promise<SQL[]> {
  const words = typed.split(/\s+/).filter(Boolean).slice(0, 5);
  return Promise.all(
    words.map(async (word) => {
      const { outside, inside, isOutside, isInside } = standing(word);
      const many = async () => {
        if ((await likely(word)) > common) return true;
        const { rows } = await db().execute<{ n: number }>(
          sql`select count(*)::int as n from (${outside} union all ${inside} limit ${upTo + 1}) some_of_them`,
        );
        return rows[0]!.n > upTo;
      };
      if (await many()) return sql`(${isOutside} or (${isInside} and ${sees}))`;
      return sql`(service_case.id = any(array(${outside})) or (service_case.id = any(array(${inside})) and ${sees}))`;
    }),
  );
}
