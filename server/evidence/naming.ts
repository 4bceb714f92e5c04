import { fileNameBy, FileNamePattern, usualFileName } from '../../core/evidence/index.ts';
import { lists, type ListAsked } from '../../core/lists/index.ts';
import { z } from 'zod';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { mayReadLog } from '../changes/queries.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { evidenceNaming } from '../db/schema/index.ts';
import { namesOfFilters } from '../lists/views.ts';
import { holdTo, notAllowed, type Result } from '../refusal.ts';

/** The pattern by which files of evidence are named. */
export async function fileNaming(): Promise<string> {
  const [row] = await db().select({ pattern: evidenceNaming.pattern }).from(evidenceNaming);
  return row?.pattern ?? usualFileName;
}

/** Files of evidence are named so from now on; whoever reads the log of changes says that. */
export async function nameFilesSo(viewer: Viewer, input: { pattern: string }): Promise<Result> {
  if (!mayReadLog(viewer)) return notAllowed('say how files of evidence are named');
  const held = holdTo(z.object({ pattern: FileNamePattern }), input);
  if (!held.ok) return held;
  const { pattern } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const set = { pattern, changedBy: viewer.id, changedAt: now() };
    await tx.insert(evidenceNaming).values(set).onConflictDoUpdate({ target: evidenceNaming.id, set });
    await record(tx, { actor: viewer.id, action: 'name-files', object: 'evidence', objectId: 'files', detail: { pattern } });
    return { ok: true };
  });
}

/** The name of a file with what is asked of the list of decisions, on a day. */
export async function evidenceFileName(asked: ListAsked, day: string): Promise<string> {
  const [pattern, names] = await Promise.all([fileNaming(), namesOfFilters('decisions', asked)]);
  const { from, to } = asked.days['decided'] ?? {};
  const states: Record<string, string> = lists.decisions.filters.state.options;
  const words = (of: string[] | undefined, name: (id: string) => string | undefined) => (of ?? []).flatMap((id) => name(id) ?? []).join(', ');
  return fileNameBy(pattern, {
    day,
    from: from ?? '',
    to: to ?? '',
    item: words(asked.wanted['item'], (id) => names[id]),
    state: words(asked.wanted['state'], (id) => states[id]),
  });
}
