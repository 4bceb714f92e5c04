import { and, eq } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { consent, drawnKind, isDrawn, item, revision } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { createItem, saveDraft } from './commands.ts';

/**
 * Puts an item away, or brings it back: put away it is not offered and does not stand among the others; its revisions, and
 * requests under way, stay as they are.
 */
export async function archiveItem(viewer: Viewer, input: { id: string; archived: boolean }): Promise<Result<{ name: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('archive catalog items');
  if (!isId(input.id)) return notFound('This item');
  return db().transaction(async (tx): Promise<Result<{ name: string }>> => {
    const [now] = await tx
      .select({ name: item.name, kind: drawnKind })
      .from(item)
      .where(and(isDrawn, eq(item.id, input.id)))
      .for('no key update');
    if (!now) return notFound('This item');
    if (now.kind === 'part') return refuse('invalid', 'A part stays for the plans that use it.');
    await tx
      .update(item)
      .set({ archivedAt: input.archived ? new Date() : null })
      .where(eq(item.id, input.id));
    await record(tx, { actor: viewer.id, action: input.archived ? 'archive' : 'bring-back', object: 'item', objectId: input.id });
    return { ok: true, name: now.name };
  });
}

type Gone = { name: string; kind: 'item' | 'part'; draft: ItemDefinition };

/** Deletes a draft that was never published; gives it, so that it can be had back. What was published once is archived instead. */
export async function deleteItem(viewer: Viewer, id: string): Promise<Result<Gone>> {
  if (!has(viewer, 'designer')) return notAllowed('delete drafts');
  if (!isId(id)) return notFound('This item');
  return db().transaction(async (tx): Promise<Result<Gone>> => {
    const [now] = await tx
      .select({ name: item.name, kind: drawnKind, draft: item.draft })
      .from(item)
      .where(and(isDrawn, eq(item.id, id)))
      .for('update');
    if (!now) return notFound('This item');
    if ((await tx.$count(revision, eq(revision.itemId, id))) > 0)
      return refuse('invalid', `“${now.name}” was published; what was asked for by it needs it. Archive it instead.`);
    await tx.delete(consent).where(eq(consent.itemId, id));
    await tx.delete(item).where(eq(item.id, id));
    await record(tx, { actor: viewer.id, action: 'delete', object: 'item', objectId: id, detail: { name: now.name } });
    return { ok: true, ...now };
  });
}

/** Has a draft back that was deleted a moment ago, under its name, as a new one. */
export async function undeleteItem(viewer: Viewer, input: { name: string; kind: 'item' | 'part'; draft: unknown }): Promise<Result<{ id: string }>> {
  const made = await createItem(viewer, { name: input.name, kind: input.kind });
  if (!made.ok) return made;
  const saved = await saveDraft(viewer, { id: made.id, version: 1, draft: input.draft });
  return saved.ok ? made : saved;
}
