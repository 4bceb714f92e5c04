import { createHash } from 'node:crypto';
import { and, desc, eq, lt, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { changeLog, person } from '../db/schema/index.ts';
import { pageOf } from '../lists/page.ts';

export const mayReadLog = (viewer: Viewer): boolean => has(viewer, 'auditor', 'administrator');

const pageSize = 100;
/** The log of changes, newest first, a page at a time. */
export async function changes(viewer: Viewer, filter: { object?: string | undefined; before?: number | undefined }) {
  if (!mayReadLog(viewer)) return undefined;
  const rows = await db()
    .select({
      id: changeLog.id,
      at: changeLog.at,
      who: person.name,
      action: changeLog.action,
      object: changeLog.object,
      objectId: changeLog.objectId,
      detail: changeLog.detail,
    })
    .from(changeLog)
    .leftJoin(person, eq(person.id, changeLog.actorId))
    .where(and(filter.object ? eq(changeLog.object, filter.object) : undefined, filter.before ? lt(changeLog.id, filter.before) : undefined))
    .orderBy(desc(changeLog.id))
    .limit(pageSize + 1);
  return pageOf(rows, pageSize, (last) => last.id);
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
