import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { serviceCase, storedFile } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { hasPartIn, maySeeInside } from '../requests/confidential.ts';
import { mayReadLedger } from '../runs/queries.ts';

/** A file, for who brought it, and for who may see the answers of the request it stands in. */
export async function fileFor(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const sees = mayReadLedger(viewer) ? sql`(${hasPartIn(viewer)} or ${maySeeInside(viewer)})` : hasPartIn(viewer);
  const [row] = await db()
    .select({ id: storedFile.id, name: storedFile.name, type: storedFile.type, size: storedFile.size, hash: storedFile.hash })
    .from(storedFile)
    .leftJoin(serviceCase, eq(serviceCase.id, storedFile.caseId))
    .where(sql`${storedFile.id} = ${id}::uuid and (${storedFile.by} = ${viewer.id}::uuid or (${storedFile.caseId} is not null and ${sees}))`);
  return row;
}

/** What files are called that somebody brought themselves. */
export async function namesOfOwn(viewer: Viewer, ids: string[]): Promise<Record<string, string>> {
  const rows = await db()
    .select({ id: storedFile.id, name: storedFile.name })
    .from(storedFile)
    .where(and(inArray(storedFile.id, ids.filter(isId)), eq(storedFile.by, viewer.id)));
  return Object.fromEntries(rows.map((r) => [r.id, r.name]));
}
