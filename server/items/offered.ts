import { and, asc, eq, ilike, isNotNull, isNull, or, sql } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { db } from '../db/database.ts';
import { item, revision } from '../db/schema/index.ts';
import { anywhere } from '../lists/like.ts';
import { definitionOf } from './definitions.ts';

/** What can be asked for, with the words that find it. */
export async function browse(search: string, most = 500) {
  const like = anywhere(search);
  return db()
    .select({
      id: item.id,
      name: revision.name,
      summary: revision.summary,
      category: revision.category,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(
      and(
        eq(item.kind, 'item'),
        isNull(item.archivedAt),
        search.trim() ? or(ilike(revision.name, like), ilike(revision.summary, like), ilike(revision.category, like)) : undefined,
      ),
    )
    .orderBy(revision.category, revision.name)
    .limit(most);
}

/** The published form of an item. */
export async function offeredItem(itemId: string): Promise<{ id: string; revision: number; definition: ItemDefinition } | undefined> {
  const [row] = await db()
    .select({ id: item.id, revision: revision.number, revisionId: revision.id })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.id, itemId), eq(item.kind, 'item'), isNull(item.archivedAt)));
  return row && { id: row.id, revision: row.revision, definition: await definitionOf(db(), row.revisionId) };
}

/** Items that are or were offered, by a part of their name; their names are known at the Counter. */
export async function findItems(q: string, few = 8): Promise<{ id: string; name: string; detail: string }[]> {
  const like = anywhere(q.toLowerCase());
  return db()
    .select({ id: item.id, name: item.name, detail: item.category })
    .from(item)
    .where(and(eq(item.kind, 'item'), isNotNull(item.publishedRevision), sql`lower(${item.name}) like ${like}`))
    .orderBy(sql`lower(${item.name}) not like ${like.slice(1)}`, asc(item.name))
    .limit(few);
}
