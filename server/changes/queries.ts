import { createHash } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { ChangedObject, ListAsked } from '../../core/lists/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, onDays, soughtWords } from '../lists/narrow.ts';

export const mayReadLog = (viewer: Viewer): boolean => has(viewer, 'auditor', 'administrator');

interface Row {
  id: number;
  at: Date;
  /** Null: whoever has the host, or Nessmoor itself. */
  who: string | null;
  action: string;
  object: ChangedObject;
  objectId: string;
  detail: Record<string, unknown>;
}
type Raw = Omit<Row, 'id' | 'at'> & { id: string; at: string; sortKeys: string[]; [key: string]: unknown };

const columns = sql`change_log.id, change_log.at, person.name as who, change_log.action, change_log.object, change_log.object_id as "objectId", change_log.detail`;
const from = sql`change_log left join person on person.id = change_log.actor_id`;
const rowOf = ({ sortKeys: _, ...r }: Raw): Row => ({ ...r, id: Number(r.id), at: new Date(r.at) });

const when: Key[] = [
  { of: sql`change_log.at`, as: 'timestamptz' },
  { of: sql`change_log.id`, as: 'bigint' },
];

/** The log of changes as it is asked for, a page at a time; undefined for whoever may not read it. */
export async function changes(viewer: Viewer, asked: ListAsked, size = 100): Promise<{ rows: Row[]; next: string | undefined } | undefined> {
  if (!mayReadLog(viewer)) return undefined;
  const { after, orderBy, sortKeys } = keyset(when, asked.sort.down, asked.after);
  const { wanted, days } = asked;
  const { rows } = await db().execute<Raw>(sql`
    select ${columns}, ${sortKeys} as "sortKeys" from ${from}
    where ${allOf([
      wanted['to'] && sql`change_log.object = any(${sql.param(wanted['to'])}::text[])`,
      anyOf(sql`change_log.actor_id`, wanted['by']),
      onDays(sql`change_log.at`, days['when'], viewer.zone),
      asked.words
        ? sql`to_tsvector('simple', change_log.action || ' ' || change_log.object_id || ' ' || left(change_log.detail::text, 100000)) @@ ${soughtWords(asked.words)}`
        : undefined,
      after,
    ])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  return { next: page.next, rows: page.rows.map(rowOf) };
}

/** One entry, with its link of the chain; undefined for whoever may not read the log. */
export async function changeOf(viewer: Viewer, id: number): Promise<(Row & { link: number | null; hash: string | null }) | undefined> {
  if (!mayReadLog(viewer)) return undefined;
  const { rows } = await db().execute<Raw & { n: string | null; hash: string | null }>(
    sql`select ${columns}, change_chain.n, change_chain.hash from ${from} left join change_chain on change_chain.change_id = change_log.id where change_log.id = ${id}`,
  );
  const [row] = rows;
  if (!row) return undefined;
  const { n, ...rest } = row;
  return { ...rowOf(rest), link: n === null ? null : Number(n), hash: row.hash };
}

export type Verified = { ok: true; entries: number; head: string } | { ok: false; entries: number; at: number; sentence: string };

const batch = 5000;
/**
 * Walks the chain of the log of changes from its beginning: every hash is worked out again here from the entry and the hash
 * before it. Tells the first place where an entry was changed, taken out or put in. The head, noted elsewhere, also shows
 * whether entries were cut off at the end.
 */
export async function verifyLog(): Promise<Verified> {
  await db().execute(sql`select chain_changes()`);
  let before = '';
  let n = 0;
  for (;;) {
    const { rows } = await db().execute<{ n: string; hash: string; change_id: string; content: string | null }>(sql`
      select c.n, c.hash, c.change_id, jsonb_build_array(l.id, extract(epoch from l.at)::numeric, l.actor_id, l.action, l.object, l.object_id, l.detail)::text as content
      from change_chain c left join change_log l on l.id = c.change_id
      where c.n > ${n} order by c.n limit ${batch}`);
    for (const row of rows) {
      if (Number(row.n) !== n + 1) return { ok: false, entries: n, at: n + 1, sentence: `Link ${n + 1} of the chain is missing.` };
      n++;
      if (row.content === null) return { ok: false, entries: n - 1, at: n, sentence: `Entry ${row.change_id} was taken out of the log.` };
      const hash = createHash('sha256')
        .update(before + row.content)
        .digest('hex');
      if (hash !== row.hash)
        return { ok: false, entries: n - 1, at: n, sentence: `Entry ${row.change_id} is not as it was written, or one before it was changed.` };
      before = hash;
    }
    if (rows.length < batch) break;
  }
  const { rows: loose } = await db().execute<{ id: string }>(
    sql`select l.id from change_log l where not exists (select from change_chain c where c.change_id = l.id) order by l.id limit 1`,
  );
  if (loose[0]) return { ok: false, entries: n, at: n + 1, sentence: `Entry ${loose[0].id} stands outside the chain.` };
  return { ok: true, entries: n, head: before };
}
