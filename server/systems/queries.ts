import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';

/** The registered HTTP systems; secrets are only said to be there or not. */
export async function webSystems(viewer: Viewer) {
  if (!has(viewer, 'designer', 'administrator')) return undefined;
  const rows = await db().select().from(webSystem).orderBy(webSystem.name).limit(200);
  return rows.map((r) => ({ id: r.id, definition: r.definition, hasSecret: r.sealedSecret !== null, changedAt: r.changedAt }));
}
