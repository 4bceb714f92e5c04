import { and, desc, eq, ilike, sql } from 'drizzle-orm';
import { checkDefinition } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { item, person, revision, serviceCase } from '../db/schema/index.ts';
import { catalogueFor } from './catalogue.ts';
import { frozen, hashOf } from './definitions.ts';
import { anywhere } from '../lists/like.ts';

/** All items with where each stands, by name. */
export async function items(viewer: Viewer, search: string, kind: 'item' | 'part' = 'item') {
  if (!has(viewer, 'designer')) return undefined;
  return db()
    .select({
      id: item.id,
      kind: item.kind,
      name: item.name,
      summary: item.summary,
      category: item.category,
      published: item.publishedRevision,
      publishedAt: revision.publishedAt,
      draftAt: item.draftAt,
      draftBy: person.name,
      open: sql<number>`(select count(*)::int from ${serviceCase} where ${serviceCase.itemId} = ${item.id} and ${serviceCase.outcome} is null)`,
    })
    .from(item)
    .leftJoin(person, eq(person.id, item.draftBy))
    .leftJoin(revision, sql`${revision.itemId} = ${item.id} and ${revision.number} = ${item.publishedRevision}`)
    .where(and(eq(item.kind, kind), search.trim() ? ilike(item.name, anywhere(search)) : undefined))
    .orderBy(sql`lower(${item.name})`)
    .limit(500);
}

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
