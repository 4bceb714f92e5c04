import { and, eq, isNull, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { newToken } from '../auth/token.ts';
import { record } from '../changes/record.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { item, publicLink, revision } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';

/** The public link of an item, as its designers see it. */
export interface ItsLink {
  /** Whether what is published can be asked for from outside. */
  offered: boolean;
  /** The address that is given to people; undefined: there is none yet, or it was closed. */
  link: string | undefined;
}

/** The public link of an item; undefined for those who design nothing. */
export async function publicLinkOf(viewer: Viewer, itemId: string): Promise<ItsLink | undefined> {
  if (!has(viewer, 'designer') || !isId(itemId)) return undefined;
  const [row] = await db()
    .select({ token: publicLink.token, outsiders: revision.outsiders })
    .from(item)
    .leftJoin(publicLink, eq(publicLink.itemId, item.id))
    .leftJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(eq(item.id, itemId));
  return row && { offered: row.outsiders === true, link: row.token === null ? undefined : `${config().PUBLIC_URL}/public/${row.token}` };
}

/** Makes the public link of an item, or another in place of the one there was, which leads nowhere from then on. */
export async function makePublicLink(viewer: Viewer, itemId: string): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('design items');
  if (!isId(itemId)) return notFound('This item');
  return db().transaction(async (tx) => {
    const [offered] = await tx
      .select({ outsiders: revision.outsiders })
      .from(item)
      .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
      .where(and(eq(item.id, itemId), isNull(item.archivedAt)))
      .for('no key update', { of: item });
    if (!offered) return notFound('This item');
    if (!offered.outsiders) return refuse('invalid', 'What is published cannot be asked for from outside. Say so in the item and publish it first.');
    await tx
      .insert(publicLink)
      .values({ itemId, token: newToken(), madeBy: viewer.id })
      .onConflictDoUpdate({ target: publicLink.itemId, set: { token: newToken(), madeBy: viewer.id, madeAt: sql`now()` } });
    await record(tx, { actor: viewer.id, action: 'make-public-link', object: 'item', objectId: itemId });
    return { ok: true };
  });
}

/** Closes the public link of an item: it leads nowhere from then on. What was asked by it goes on. */
export async function closePublicLink(viewer: Viewer, itemId: string): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('design items');
  if (!isId(itemId)) return notFound('This item');
  return db().transaction(async (tx) => {
    const closed = await tx.delete(publicLink).where(eq(publicLink.itemId, itemId)).returning({ itemId: publicLink.itemId });
    if (closed.length > 0) await record(tx, { actor: viewer.id, action: 'close-public-link', object: 'item', objectId: itemId });
    return { ok: true };
  });
}
