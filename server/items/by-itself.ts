import { and, eq } from 'drizzle-orm';
import { newState, type RunEvent } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import type { Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import type { Tx } from '../db/database.ts';
import { item, revision, run, serviceCase } from '../db/schema/index.ts';
import { namesFor } from '../people/names.ts';
import { caseWords } from '../requests/answers.ts';
import { deliverAll } from '../runtime/deliver.ts';
import { requestNumber } from '../words.ts';
import { frozen, hashOf } from './definitions.ts';

/** A revision by which something goes that comes by itself. */
export interface ByItself {
  id: string;
  itemId: string;
  definition: ItemDefinition;
}

/** The revision of something that nobody draws or asks for: made when it is wanted first, and anew when it says something else. */
export async function revisionByItself(
  tx: Tx,
  draft: ItemDefinition,
  { spec, by, note }: { spec: ActionSpec; by: string; note: string },
): Promise<ByItself> {
  const definition = frozen(draft, { actions: [spec], people: {} });
  const contentHash = hashOf(definition);
  const called = and(eq(item.kind, 'byItself'), eq(item.name, draft.name));
  await tx.insert(item).values({ kind: 'byItself', name: draft.name, draft, draftBy: by }).onConflictDoNothing();
  const [its] = await tx.select({ id: item.id }).from(item).where(called).for('no key update');
  const itemId = its!.id;
  const [known] = await tx
    .select({ id: revision.id })
    .from(revision)
    .where(and(eq(revision.itemId, itemId), eq(revision.contentHash, contentHash)));
  if (known) return { id: known.id, itemId, definition };
  const number = (await tx.$count(revision, eq(revision.itemId, itemId))) + 1;
  const [made] = await tx.insert(revision).values({ itemId, number, definition, contentHash, publishedBy: by, note }).returning({ id: revision.id });
  return { id: made!.id, itemId, definition };
}

/** Opens a request of what comes by itself, for somebody, and begins its plan; `then` happens to it at once. `key`: a repeat fails. */
export async function openByItself(
  tx: Tx,
  { id: revisionId, itemId, definition }: ByItself,
  of: { by: Viewer; whom: string; answers: Record<string, Value>; key: string; at: Date; then?: RunEvent[] },
): Promise<{ caseId: string; number: number; runId: string }> {
  const { by, whom, answers, key, at, then = [] } = of;
  const forId = whom === by.id ? null : whom;
  const [made] = await tx
    .insert(serviceCase)
    .values({
      kind: 'request',
      itemId,
      revisionId,
      requesterId: by.id,
      forId,
      answers,
      words: caseWords(definition, answers, await namesFor(tx, Object.values(answers))),
      openedAt: at,
      idempotencyKey: key,
    })
    .returning({ id: serviceCase.id, number: serviceCase.number });
  const { id: caseId, number } = made!;
  const state = newState();
  const [begun] = await tx.insert(run).values({ caseId, revisionId, beganAt: at, state }).returning({ id: run.id });
  const runId = begun!.id;
  // Nobody else knows of this run yet: there is nothing to lock.
  const its = { id: runId, caseId, kind: 'request' as const, number, revisionId, requesterId: by.id, seq: 0, state, isFirst: true };
  const events: RunEvent[] = [
    {
      type: 'begin',
      requester: { person: by.id },
      number: requestNumber(number),
      answers,
      zone: by.zone,
      ...(forId !== null && { for: { person: forId } }),
    },
    ...then,
  ];
  const [played] = await deliverAll(tx, [{ run: its, events }], at);
  const ignored = played?.events.find((e) => e.ignored);
  if (ignored) throw new Error(`What comes by itself could not begin (${ignored.ignored}).`);
  return { caseId, number, runId };
}
