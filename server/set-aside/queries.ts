import { and, desc, eq, isNull, lt, or } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { setAside } from '../db/schema/index.ts';
import { momentCursor, pageOf } from '../lists/page.ts';
import { canBeTriedAgain } from './put-aside.ts';

const pageSize = 50;

/** What is set aside, the newest first; undefined to whoever may not see it. */
export async function setAsideFor(viewer: Viewer, after?: { at: Date; id: string }) {
  if (!has(viewer, 'administrator')) return undefined;
  const rows = await db()
    .select()
    .from(setAside)
    .where(and(isNull(setAside.settledAt), after && or(lt(setAside.lastAt, after.at), and(eq(setAside.lastAt, after.at), lt(setAside.id, after.id)))))
    .orderBy(desc(setAside.lastAt), desc(setAside.id))
    .limit(pageSize + 1);
  return pageOf(
    rows.map((r) => ({ ...r, canBeTriedAgain: canBeTriedAgain(r.source) })),
    pageSize,
    (last) => momentCursor(last.lastAt, last.id),
  );
}
