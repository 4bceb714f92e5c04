import { and, eq, getTableColumns, inArray, isNull, sql } from 'drizzle-orm';
import { RevisionNote } from '../../core/posts/index.ts';
import { blankItem, checkDefinition, ItemDefinition, templates } from '../../core/items/index.ts';
import type { Finding } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { drawnKind, isDrawn, item, itemRelease, referenceTable, revision } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { catalogueFor } from './catalogue.ts';
import { frozen, hashOf } from './definitions.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { grantsIn, wantedConsents } from '../consents/commands.ts';
import { record } from '../changes/record.ts';
import { stops } from '../../core/checks/index.ts';

/** Begins an item: blank, from a template that ships, or as a copy of another's draft, which is not touched. */
export async function createItem(
  viewer: Viewer,
  input: { name: string; copyOf?: string | undefined; template?: string | undefined; kind?: 'item' | 'part' },
): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('design catalog items');
  const name = ItemDefinition.shape.name.safeParse(input.name);
  if (!name.success) return invalid('name', name.error.issues[0]?.message ?? 'The item needs a name.');
  return db().transaction(async (tx) => {
    let draft = blankItem(name.data);
    let kind = input.kind ?? 'item';
    if (input.template && kind === 'item') {
      const template = templates.find((t) => t.id === input.template);
      if (!template) return notFound('The template');
      draft = template.make(name.data);
    }
    if (input.copyOf) {
      const [original] = await tx
        .select({ draft: item.draft, kind: drawnKind })
        .from(item)
        .where(and(isDrawn, eq(item.id, input.copyOf)));
      if (!original) return notFound('The item to copy');
      draft = { ...original.draft, name: name.data };
      kind = original.kind;
    }
    const [made] = await tx
      .insert(item)
      .values({ name: name.data, kind, draft, draftBy: viewer.id, copiedFromId: input.copyOf ?? null })
      .onConflictDoNothing()
      .returning({ id: item.id });
    if (!made) return taken(name.data);
    await record(tx, {
      actor: viewer.id,
      action: 'create',
      object: 'item',
      objectId: made.id,
      detail: { name: name.data, copyOf: input.copyOf ?? null, ...(input.template && { template: input.template }) },
    });
    return { ok: true, id: made.id };
  });
}

/** Saves the draft if it still is the version that the change was made from; a second editor is told otherwise. */
export async function saveDraft(
  viewer: Viewer,
  input: { id: string; version: number; draft: unknown },
): Promise<Result<{ version: number; findings: Finding[] }>> {
  if (!has(viewer, 'designer')) return notAllowed('design catalog items');
  const parsed = ItemDefinition.safeParse(input.draft);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    return invalid(
      issue?.path.join('.') ?? 'draft',
      `The draft was not saved: ${issue?.message ?? 'it does not fit'} (${issue?.path.join(' › ') ?? ''})`,
    );
  }
  const draft = parsed.data;
  return db().transaction(async (tx): Promise<Result<{ version: number; findings: Finding[] }>> => {
    const [now] = await tx
      .select({ version: item.draftVersion, name: item.name, kind: drawnKind })
      .from(item)
      .where(and(isDrawn, eq(item.id, input.id)))
      .for('no key update');
    if (!now) return notFound('The item');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has saved this draft meanwhile. Nothing of theirs was overwritten; your changes are still here.',
      );
    if (draft.name.toLowerCase() !== now.name.toLowerCase() && (await nameIsTaken(tx, draft.name))) return taken(draft.name);
    const version = now.version + 1;
    await tx
      .update(item)
      .set({ draft, name: draft.name, draftVersion: version, draftBy: viewer.id, draftAt: new Date() })
      .where(eq(item.id, input.id));
    await record(tx, { actor: viewer.id, action: 'save-draft', object: 'item', objectId: input.id, detail: { version, hash: hashOf(draft) } });
    return {
      ok: true,
      version,
      findings: checkDefinition(now.kind, draft, await catalogueFor(tx, draft, now.kind === 'part' ? input.id : undefined)),
    };
  });
}

/** Freezes the draft as the next revision and offers it at the Counter; refused while there are stopping findings. */
export async function publish(viewer: Viewer, input: { id: string; version: number; note: string }): Promise<Result<{ number: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('publish revisions');
  const held = holdTo(RevisionNote, input);
  if (!held.ok) return held;
  if (config().SECOND_DESIGNER === 'on') return refuse('not-allowed', 'Not published: a second designer has to agree. Ask for that instead.');
  return db().transaction(async (tx): Promise<Result<{ number: number }>> => {
    const ready = await readyToPublish(tx, viewer, input);
    if (!ready.ok) return ready;
    return { ok: true, number: await offer(tx, { ...ready, itemId: input.id, by: viewer.id, note: held.value.note }) };
  });
}

/** What would be published of a draft now, with the item locked; or why it cannot be. */
export async function readyToPublish(
  tx: Tx,
  viewer: Viewer,
  input: { id: string; version: number },
): Promise<Result<{ definition: ItemDefinition; contentHash: string }>> {
  const [now] = await tx
    .select({ ...getTableColumns(item), kind: drawnKind })
    .from(item)
    .where(and(isDrawn, eq(item.id, input.id)))
    .for('no key update');
  if (!now) return notFound('The item');
  if (now.draftVersion !== input.version)
    return refuse('changed-meanwhile', 'The draft was changed after you opened this page. Read it again before you publish it.');
  if ((await tx.$count(itemRelease, and(eq(itemRelease.itemId, input.id), isNull(itemRelease.endedAt)))) > 0)
    return refuse('taken', 'A revision of this item is to be published already. Take that back first.');
  const catalogue = await catalogueFor(tx, now.draft, now.kind === 'part' ? input.id : undefined);
  const stopping = stops(checkDefinition(now.kind, now.draft, catalogue));
  if (stopping.length)
    return refuse(
      'has-findings',
      `Not published: ${stopping.length === 1 ? 'one finding stops' : `${stopping.length} findings stop`} it.`,
      stopping.map((f) => ({ field: f.step ?? f.field ?? 'plan', sentence: f.sentence })),
    );
  const definition = frozen(now.draft, catalogue);
  const contentHash = hashOf(definition);
  const last = await lastRevision(tx, input.id);
  if (last?.contentHash === contentHash) return refuse('taken', `Nothing has changed since revision ${last.number}.`);
  // What gives something of a system wants the word of somebody who answers for it. A part gives nothing by itself.
  const wanted = now.kind === 'item' ? await wantedConsents(tx, viewer, input.id, grantsIn(definition.plan, catalogue)) : undefined;
  if (wanted) return refuse('awaits-consent', `Not published yet. ${wanted}`);
  return { ok: true, definition, contentHash };
}

async function lastRevision(tx: Tx, itemId: string) {
  const [last] = await tx
    .select({ number: revision.number, contentHash: revision.contentHash })
    .from(revision)
    .where(eq(revision.itemId, itemId))
    .orderBy(sql`${revision.number} desc`)
    .limit(1);
  return last;
}

/** Makes a definition the next revision of its item, which is locked, and offers it; gives its number. */
export async function offer(
  tx: Tx,
  of: { itemId: string; definition: ItemDefinition; contentHash: string; by: string; note: string; detail?: Record<string, unknown> },
): Promise<number> {
  const { itemId, definition, contentHash, by, note } = of;
  const number = ((await lastRevision(tx, itemId))?.number ?? 0) + 1;
  await tx.insert(revision).values({ itemId, number, definition, contentHash, publishedBy: by, note });
  await tx.update(item).set({ publishedRevision: number }).where(eq(item.id, itemId));
  const tables = definition.form.fields.flatMap((f) => (f.table !== undefined && isId(f.table) ? [f.table] : []));
  if (tables.length > 0) await tx.update(referenceTable).set({ offered: true }).where(inArray(referenceTable.id, tables));
  await record(tx, { actor: by, action: 'publish', object: 'item', objectId: itemId, detail: { number, contentHash, note, ...of.detail } });
  return number;
}

export async function nameIsTaken(tx: Tx | ReturnType<typeof db>, name: string, except?: string): Promise<boolean> {
  const rows = await tx
    .select({ id: item.id })
    .from(item)
    .where(and(isDrawn, eq(sql`lower(${item.name})`, name.trim().toLowerCase()), except ? sql`${item.id} <> ${except}` : undefined))
    .limit(1);
  return rows.length > 0;
}

const invalid = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);
const taken = (name: string) =>
  refuse('taken', `There is an item called “${name}” already.`, [
    { field: 'name', sentence: `There is an item called “${name}” already. Choose another name.` },
  ]);
