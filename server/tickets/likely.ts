import { sql, type SQL } from 'drizzle-orm';
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

/**
 * What may answer a report while it is typed: items that can be asked for, the viewer's own open tickets that are like it, and how many others
 * around them have reported something like it. Of those they are told the number and no more.
 */
export async function likelyAnswers(viewer: Viewer, words: string) {
  const sought = tellingWords(words);
  if (sought.length === 0) return { items: [], tickets: [], others: undefined };
  const any = anyOfThem(sought.map((w) => soughtWords(w)));
  const [items, others, { rows }] = await Promise.all([
    browse(viewer, sought.join(' '), few, '', true),
    othersAround(viewer, sought),
    db().execute<{ number: string; subject: string }>(sql`
      select c.number, t.subject from service_case c join ticket t on t.case_id = c.id
      where c.requester_id = ${viewer.id} and t.ended_at is null and to_tsvector('simple', c.words) @@ ${any}
      order by ts_rank(to_tsvector('simple', c.words), ${any}) desc, c.number desc limit ${few}`),
  ]);
  return {
    items: items.map(({ id, name, summary }) => ({ id, name, summary })),
    tickets: rows.map((r) => ({ number: Number(r.number), subject: r.subject })),
    others,
  };
}

const anyOfThem = (questions: SQL[]): SQL => sql`(${sql.join(questions, sql` || `)})`;

/** So many of the open tickets around somebody are looked at, by when they fall due. */
const lookedAt = 300;

/**
 * How many open tickets of others, where the viewer works and around it, have two of the telling words in their subjects (or the one there
 * is), and where that is; undefined where there are none, or the viewer works nowhere that is known.
 */
async function othersAround(viewer: Viewer, sought: string[]): Promise<{ many: number; place: string } | undefined> {
  const pairs = sought.flatMap((a, i) => sought.slice(i + 1).map((b) => sql`(${soughtWords(a)} && ${soughtWords(b)})`));
  const like = anyOfThem(pairs.length > 0 ? pairs : sought.map((w) => soughtWords(w)));
  const { rows } = await db().execute<{ many: number; place: string | null }>(sql`
    with recursive around as (
      select coalesce(up.id, l.id) as id, coalesce(up.name, l.name) as name from person p join location l on l.id = p.location_id
        left join location up on up.id = l.parent_id where p.id = ${viewer.id}),
    within(id) as (select id from around union select l.id from location l join within w on l.parent_id = w.id)
    select count(*)::int as many, (select name from around) as place from (
      select t.subject from ticket t join service_case c on c.id = t.case_id
      where t.ended_at is null and t.place_id = any(array(select id from within)) and c.requester_id <> ${viewer.id}
      order by t.due_order, t.case_id limit ${lookedAt}) k
    where to_tsvector('simple', k.subject) @@ ${like}`);
  const [found] = rows;
  return found?.place && found.many > 0 ? { many: found.many, place: found.place } : undefined;
}
