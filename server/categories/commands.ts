import { eq } from 'drizzle-orm';
import { categoryPath, isPicture } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { category } from '../db/schema/index.ts';
import { notAllowed, refuse, type Result } from '../refusal.ts';

/** Gives a category its picture, or none. */
export async function pictureCategory(viewer: Viewer, input: { path: string; picture: string }): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('choose pictures of categories');
  const path = categoryPath(input.path);
  if (path === '' || path.length > 60) return refuse('invalid', 'Choose a category.');
  const { picture } = input;
  if (picture !== '' && !isPicture(picture)) return refuse('invalid', 'Choose one of the pictures.');
  return db().transaction(async (tx): Promise<Result> => {
    const key = path.toLowerCase();
    if (picture === '') await tx.delete(category).where(eq(category.key, key));
    else await tx.insert(category).values({ key, picture }).onConflictDoUpdate({ target: category.key, set: { picture } });
    await record(tx, { actor: viewer.id, action: 'picture', object: 'category', objectId: path, detail: { picture } });
    return { ok: true };
  });
}
