import { and, eq, isNull, sql } from 'drizzle-orm';
import { categoryPath, categoryTree, isPicture, type Category, type Picture } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { category, item } from '../db/schema/index.ts';

/** The pictures of categories, by their paths in small letters. */
export async function picturesOf(): Promise<Map<string, Picture>> {
  const rows = await db().select().from(category);
  return new Map(rows.flatMap((r) => (isPicture(r.picture) ? [[r.key, r.picture] as const] : [])));
}

/** A category with its picture. */
export type Pictured = Category & { picture: Picture | undefined };

/** Every category that drafts have, as a tree, with its picture. */
export async function categoriesOf(viewer: Viewer): Promise<Pictured[] | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const rows = await db()
    .select({ category: sql<string>`${item.draft} ->> 'category'` })
    .from(item)
    .where(and(eq(item.kind, 'item'), isNull(item.archivedAt)));
  return pictured(rows.map((r) => r.category));
}

/** The tree of these, with pictures. */
export async function pictured(categories: string[]): Promise<Pictured[]> {
  const pictures = await picturesOf();
  return categoryTree(categories).map((c) => ({ ...c, picture: pictures.get(categoryPath(c.path).toLowerCase()) }));
}
