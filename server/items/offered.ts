import { and, asc, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { db } from '../db/database.ts';
import { item, revision } from '../db/schema/index.ts';
import { anywhere } from '../lists/like.ts';
import { definitionOf } from './definitions.ts';

/** What an item is found by: what it is called, also by others, what it is for, where it stands; without accents and capitals. */
const found = sql`lower(unaccent(${revision.name} || ' ' || coalesce(${revision.definition} ->> 'alsoCalled', '') || ' ' || ${revision.summary} || ' ' || ${revision.category}))`;
/** A word that is not in it counts as misspelt while it is so much like one that is (pg_trgm). */
const alike = 0.45;

/**
 * What can be asked for. Every typed word has to be found, as a part of a word or misspelt; what is called so comes first. Without words
 * all of it, by category.
 */
export async function browse(search: string, most = 500) {
  const words = search.trim().split(/\s+/).filter(Boolean).slice(0, 6);
  const plain = (word: string) => sql`lower(unaccent(${word}))`;
  const likeness = (word: string) =>
    sql`case when ${found} like '%' || replace(replace(replace(${plain(word)}, '\\', '\\\\'), '%', '\\%'), '_', '\\_') || '%' then 1 else word_similarity(${plain(word)}, ${found}) end`;
  const named = sql`word_similarity(${plain(search.trim())}, lower(unaccent(${revision.name})))`;
  return db()
    .select({
      id: item.id,
      name: revision.name,
      summary: revision.summary,
      category: revision.category,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.kind, 'item'), isNull(item.archivedAt), ...words.map((word) => sql`${likeness(word)} >= ${alike}`)))
    .orderBy(...(words.length > 0 ? [sql`${named} desc`] : [asc(revision.category)]), asc(revision.name))
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
