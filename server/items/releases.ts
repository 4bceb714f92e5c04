import { and, eq, isNull } from 'drizzle-orm';
import { stops } from '../../core/checks/index.ts';
import { checkDefinition } from '../../core/items/index.ts';
import { RevisionNote } from '../../core/posts/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { drawnKind, isDrawn, item, itemRelease } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, refuse, type Result } from '../refusal.ts';
import { addJobs } from '../runtime/jobs.ts';
import { catalogueFor } from './catalogue.ts';
import { offer, readyToPublish } from './commands.ts';

/** Later than this nothing is planned, in milliseconds. */
const furthest = 366 * 86_400_000;

/**
 * Has the draft, as it is now, published at a time (`at`, an instant), or, where the organisation wants a second designer, once one
 * has agreed; at the later of both. What is changed in the draft meanwhile is not in it.
 */
export async function planRelease(
  viewer: Viewer,
  input: { id: string; version: number; note: string; at?: Date | undefined },
): Promise<Result<{ release: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('publish revisions');
  const held = holdTo(RevisionNote, input);
  if (!held.ok) return held;
  const wantsSecond = config().SECOND_DESIGNER === 'on';
  const { at } = input;
  const wrongTime = (sentence: string) => refuse('invalid', sentence, [{ field: 'at', sentence }]);
  if (at && (Number.isNaN(at.getTime()) || at <= now())) return wrongTime('Choose a day and a time that are still to come.');
  if (at && at.getTime() - now().getTime() > furthest) return wrongTime('Choose a day within a year.');
  if (!at && !wantsSecond) return wrongTime('Choose a day and a time.');
  return db().transaction(async (tx): Promise<Result<{ release: string }>> => {
    const ready = await readyToPublish(tx, viewer, input);
    if (!ready.ok) return ready;
    const { definition, contentHash } = ready;
    const [made] = await tx
      .insert(itemRelease)
      .values({ itemId: input.id, definition, contentHash, note: held.value.note, askedBy: viewer.id, dueAt: at ?? null, wantsSecond })
      .returning({ id: itemRelease.id });
    if (at) await addJobs(tx, 'release', [{ payload: { releaseId: made!.id }, key: `release:${made!.id}`, runAt: at }]);
    await record(tx, {
      actor: viewer.id,
      action: 'plan-release',
      object: 'item',
      objectId: input.id,
      detail: { at: at?.toISOString() ?? null, contentHash },
    });
    return { ok: true, release: made!.id };
  });
}

/** A second designer agrees that it is published: at once, or when its time has come. */
export async function agreeRelease(viewer: Viewer, id: string): Promise<Result<{ number?: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('publish revisions');
  return db().transaction(async (tx): Promise<Result<{ number?: number }>> => {
    const row = await waiting(tx, id);
    if (!row) return refuse('ended', 'It is not to be published any more.');
    if (row.askedBy === viewer.id) return refuse('not-allowed', 'You asked for it yourself; another designer has to agree.');
    if (row.agreedBy) return refuse('already-decided', 'Somebody has agreed already.');
    await tx.update(itemRelease).set({ agreedBy: viewer.id, agreedAt: now() }).where(eq(itemRelease.id, id));
    await record(tx, { actor: viewer.id, action: 'agree-release', object: 'item', objectId: row.itemId, detail: { contentHash: row.contentHash } });
    const number = await publishIfDue(tx, { ...row, agreedBy: viewer.id });
    return { ok: true, ...(number !== undefined && { number }) };
  });
}

/** Whoever designs may take back what is to be published; nothing was offered of it. */
export async function takeReleaseBack(viewer: Viewer, id: string): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('publish revisions');
  return db().transaction(async (tx): Promise<Result> => {
    const row = await waiting(tx, id);
    if (!row) return refuse('ended', 'It is not to be published any more.');
    await tx.update(itemRelease).set({ endedAt: now(), result: 'taken back' }).where(eq(itemRelease.id, id));
    await record(tx, {
      actor: viewer.id,
      action: 'take-release-back',
      object: 'item',
      objectId: row.itemId,
      detail: { contentHash: row.contentHash },
    });
    return { ok: true };
  });
}

/** What a worker does when the time of a release has come; once, however often it is told. */
export async function publishRelease(id: string): Promise<void> {
  await db().transaction(async (tx) => {
    const row = await waiting(tx, id);
    if (row) await publishIfDue(tx, row);
  });
}

/** A release that waits, with its item locked. */
async function waiting(tx: Tx, id: string) {
  if (!isId(id)) return undefined;
  const [its] = await tx.select({ itemId: itemRelease.itemId }).from(itemRelease).where(eq(itemRelease.id, id));
  if (!its) return undefined;
  await tx.select({ id: item.id }).from(item).where(eq(item.id, its.itemId)).for('no key update');
  const [row] = await tx
    .select()
    .from(itemRelease)
    .where(and(eq(itemRelease.id, id), isNull(itemRelease.endedAt)));
  return row;
}

/** Publishes a release whose time has come and which has what it wants; what stops it now is kept with it. */
async function publishIfDue(tx: Tx, row: typeof itemRelease.$inferSelect): Promise<number | undefined> {
  if ((row.wantsSecond && !row.agreedBy) || (row.dueAt && row.dueAt > now())) return undefined;
  const { itemId, definition, contentHash, note, askedBy, agreedBy } = row;
  const [its] = await tx
    .select({ kind: drawnKind, archivedAt: item.archivedAt })
    .from(item)
    .where(and(isDrawn, eq(item.id, itemId)));
  const catalogue = await catalogueFor(tx, definition, its!.kind === 'part' ? itemId : undefined);
  const [finding] = stops(checkDefinition(its!.kind, definition, catalogue));
  const reason = its!.archivedAt ? 'The item was archived meanwhile.' : finding?.sentence;
  if (reason !== undefined) {
    await tx.update(itemRelease).set({ endedAt: now(), result: 'stopped', reason }).where(eq(itemRelease.id, row.id));
    await record(tx, { actor: null, action: 'release-stopped', object: 'item', objectId: itemId, detail: { reason } });
    return undefined;
  }
  const number = await offer(tx, { itemId, definition, contentHash, by: askedBy, note, ...(agreedBy && { detail: { agreedBy } }) });
  await tx.update(itemRelease).set({ endedAt: now(), result: 'published', number }).where(eq(itemRelease.id, row.id));
  return number;
}
