import { and, eq, ilike, isNull, or } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { db } from '../db/database.ts';
import { item, revision } from '../db/schema/index.ts';
import { anywhere } from '../lists/like.ts';

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
    .select({ id: item.id, revision: revision.number, definition: revision.definition })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.id, itemId), eq(item.kind, 'item'), isNull(item.archivedAt)));
  return row;
}
