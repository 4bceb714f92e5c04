import { and, desc, eq, getTableColumns, gt, inArray } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { backTo, checkDefinition, compareItems, type Difference } from '../../core/items/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { momentWords } from '../words.ts';
import { drawnKind, isDrawn, item, itemRelease, person, revision } from '../db/schema/index.ts';
import { catalogueFor } from './catalogue.ts';
import { frozen, hashOf } from './definitions.ts';

/** A draft with what its editor needs: the catalogue, the findings, the revisions so far. */
export async function draftOf(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db()
    .select({ ...getTableColumns(item), kind: drawnKind })
    .from(item)
    .where(and(isDrawn, eq(item.id, id)));
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

/** The draft of an item as one of its revisions had it, and the names of the people in it; nothing is changed by asking. */
export async function draftAsRevision(viewer: Viewer, id: string, number: number) {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db()
    .select({ draft: item.draft, definition: revision.definition })
    .from(revision)
    .innerJoin(item, eq(item.id, revision.itemId))
    .where(and(isDrawn, eq(revision.itemId, id), eq(revision.number, number)));
  if (!row) return undefined;
  const catalogue = await catalogueFor(db(), row.definition);
  return { draft: backTo(row.draft, row.definition, catalogue), people: catalogue.people };
}

/**
 * What a later revision of an item says otherwise than an earlier one, in words; the draft stands for the later where none is named.
 * Both are as they are kept: with the parts they use within them.
 */
export async function differencesBetween(
  viewer: Viewer,
  id: string,
  from: number,
  to: number | undefined,
): Promise<{ from: number; to: number | undefined; differences: Difference[] } | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db()
    .select({ kind: drawnKind, draft: item.draft })
    .from(item)
    .where(and(isDrawn, eq(item.id, id)));
  const revisions = await db()
    .select({ number: revision.number, definition: revision.definition })
    .from(revision)
    .where(and(eq(revision.itemId, id), inArray(revision.number, to === undefined ? [from] : [from, to])));
  const of = (n: number) => revisions.find((r) => r.number === n)?.definition;
  const before = of(from);
  if (!row || !before) return undefined;
  const catalogue = await catalogueFor(db(), row.draft, row.kind === 'part' ? id : undefined);
  const after = to === undefined ? frozen(row.draft, catalogue) : of(to);
  return after && { from, to, differences: compareItems(row.kind, before, after, catalogue) };
}

/** The release of an item that waits, or the last one where it was stopped; in words for whoever reads it. */
export async function releaseOf(viewer: Viewer, itemId: string) {
  if (!has(viewer, 'designer') || !isId(itemId)) return undefined;
  const second = alias(person, 'second');
  const [row] = await db()
    .select({ of: itemRelease, by: person.name, second: second.name })
    .from(itemRelease)
    .innerJoin(person, eq(person.id, itemRelease.askedBy))
    .leftJoin(second, eq(second.id, itemRelease.agreedBy))
    .where(eq(itemRelease.itemId, itemId))
    .orderBy(desc(itemRelease.askedAt))
    .limit(1);
  if (!row || (row.of.endedAt && row.of.result !== 'stopped')) return undefined;
  // What was published since says more than what was not.
  if (row.of.endedAt && (await db().$count(revision, and(eq(revision.itemId, itemId), gt(revision.publishedAt, row.of.endedAt)))) > 0)
    return undefined;
  const { id, dueAt, wantsSecond, note, askedBy, askedAt, reason, endedAt } = row.of;
  return {
    id,
    dueAt,
    due: dueAt ? momentWords(dueAt, viewer.zone) : undefined,
    note,
    by: row.by,
    askedAt,
    mine: askedBy === viewer.id,
    wantsSecond,
    second: row.second,
    stopped: endedAt ? (reason ?? '') : undefined,
  };
}

/** Whether the organisation wants a second designer for every revision. */
export const wantsSecondDesigner = (): boolean => config().SECOND_DESIGNER === 'on';
