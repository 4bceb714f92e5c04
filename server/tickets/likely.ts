import { sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { browse } from '../items/offered.ts';
import { soughtWords } from '../lists/narrow.ts';

/** Words that stand in every report and tell none from another; with those of fewer than four letters. */
const everywhere = new Set(
  'this that with from have does when will what there after then they cannot anymore always never some more does doesn'.split(' '),
);
const few = 3;

/** The words of a report that tell it from others. */
export const tellingWords = (words: string): string[] =>
  [
    ...new Set(
      words
        .toLowerCase()
        .split(/[^\p{L}\p{N}]+/u)
        .filter((w) => w.length > 3 && !everywhere.has(w)),
    ),
  ].slice(0, 6);

/** What may answer a report while it is typed: items that can be asked for, and the viewer's own open tickets that are like it. */
export async function likelyAnswers(viewer: Viewer, words: string) {
  const sought = tellingWords(words);
  if (sought.length === 0) return { items: [], tickets: [] };
  const any = sql`(${sql.join(
    sought.map((w) => soughtWords(w)),
    sql` || `,
  )})`;
  const [items, { rows }] = await Promise.all([
    browse(viewer, sought.join(' '), few, '', true),
    db().execute<{ number: string; subject: string }>(sql`
      select c.number, t.subject from service_case c join ticket t on t.case_id = c.id
      where c.requester_id = ${viewer.id} and t.ended_at is null and to_tsvector('simple', c.words) @@ ${any}
      order by ts_rank(to_tsvector('simple', c.words), ${any}) desc, c.number desc limit ${few}`),
  ]);
  return {
    items: items.map(({ id, name, summary }) => ({ id, name, summary })),
    tickets: rows.map((r) => ({ number: Number(r.number), subject: r.subject })),
  };
}
