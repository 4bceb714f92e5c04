import { desc, eq } from 'drizzle-orm';
import { checkDefinition } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, person, revision } from '../db/schema/index.ts';
import { catalogueFor } from './catalogue.ts';
import { frozen, hashOf } from './definitions.ts';

/** A draft with what its editor needs: the catalogue, the findings, the revisions so far. */
export async function draftOf(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db().select().from(item).where(eq(item.id, id));
  if (!row) return undefined;
  const catalogue = await catalogueFor(db(), row.draft);
  const revisions = await db()
    .select({ number: revision.number, at: revision.publishedAt, by: person.name, note: revision.note, contentHash: revision.contentHash })
    .from(revision)
    .innerJoin(person, eq(person.id, revision.publishedBy))
    .where(eq(revision.itemId, id))
    .orderBy(desc(revision.number))
    .limit(50);
  return {
    id: row.id,
    kind: row.kind,
    draft: row.draft,
    version: row.draftVersion,
    published: row.publishedRevision,
    catalogue,
    findings: checkDefinition(row.kind, row.draft, catalogue),
    revisions,
    /** Nothing has changed since the last revision. */
    unchanged: revisions[0]?.contentHash === hashOf(frozen(row.draft, catalogue)),
  };
}
