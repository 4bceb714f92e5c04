import { and, eq, inArray } from 'drizzle-orm';
import { newState } from '../../core/engine/index.ts';
import { validateAnswers } from '../../core/forms/index.ts';
import { isGroup, isPerson, Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Reader } from '../db/database.ts';
import { accessGroup, item, person, request, revision } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { deliver } from '../runtime/deliver.ts';
import { requestNumber } from '../runtime/messages.ts';
import { record } from './record.ts';

/** Asks for an item: holds the answers against the published form, opens the request and begins its plan. */
export async function submitRequest(
  viewer: Viewer,
  input: { itemId: string; revision: number; answers: Record<string, unknown>; onceKey: string },
): Promise<Result<{ number: number }>> {
  return db().transaction(async (tx): Promise<Result<{ number: number }>> => {
    const [offered] = await tx
      .select({ revisionId: revision.id, number: revision.number, definition: revision.definition })
      .from(item)
      .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
      .where(eq(item.id, input.itemId));
    if (!offered) return notFound('This item');
    const [earlier] = await tx
      .select({ number: request.number })
      .from(request)
      .where(and(eq(request.requesterId, viewer.id), eq(request.onceKey, input.onceKey)));
    if (earlier) return { ok: true, number: earlier.number };
    if (offered.number !== input.revision)
      return refuse('changed-meanwhile', 'The form was changed while you filled it in. What you typed is kept; look it over and send it again.');
    const exists = await existing(tx, input.answers);
    const held = validateAnswers(offered.definition.form, input.answers, (kind, id) => exists.has(`${kind} ${id}`));
    if (!held.ok)
      return refuse(
        'invalid',
        held.problems.length === 1 ? 'One answer needs another look.' : `${held.problems.length} answers need another look.`,
        held.problems,
      );
    const at = now();
    const [made] = await tx
      .insert(request)
      .values({
        itemId: input.itemId,
        revisionId: offered.revisionId,
        requesterId: viewer.id,
        answers: held.answers,
        openedAt: at,
        onceKey: input.onceKey,
        state: newState(),
      })
      .onConflictDoNothing()
      .returning({ id: request.id, number: request.number });
    if (!made) {
      // The same form sent twice at once: the other one has it.
      const [other] = await tx
        .select({ number: request.number })
        .from(request)
        .where(and(eq(request.requesterId, viewer.id), eq(request.onceKey, input.onceKey)));
      return other ? { ok: true, number: other.number } : refuse('invalid', 'The request could not be opened. Send it again.');
    }
    await record(tx, {
      actor: viewer.id,
      action: 'ask',
      object: 'request',
      objectId: made.id,
      detail: { number: made.number, revision: offered.number },
    });
    await deliver(tx, made.id, { type: 'begin', requester: { person: viewer.id }, number: requestNumber(made.number), answers: held.answers }, at);
    return { ok: true, number: made.number };
  });
}

/** The persons and groups among answers that exist and are active. */
async function existing(tx: Reader, answers: Record<string, unknown>): Promise<Set<string>> {
  const values = Object.values(answers).flatMap((v) => {
    const parsed = Value.safeParse(v);
    return parsed.success ? [parsed.data] : [];
  });
  const people = values.flatMap((v) => (isPerson(v) && isId(v.person) ? [v.person] : []));
  const groups = values.flatMap((v) => (isGroup(v) && isId(v.group) ? [v.group] : []));
  const [p, g] = await Promise.all([
    people.length
      ? tx
          .select({ id: person.id })
          .from(person)
          .where(and(inArray(person.id, people), eq(person.active, true)))
      : [],
    groups.length
      ? tx
          .select({ id: accessGroup.id })
          .from(accessGroup)
          .where(and(inArray(accessGroup.id, groups), eq(accessGroup.gone, false)))
      : [],
  ]);
  return new Set([...p.map((x) => `person ${x.id}`), ...g.map((x) => `group ${x.id}`)]);
}

/** The requester takes the request back; what is open is closed as no longer needed. */
export async function withdrawRequest(viewer: Viewer, input: { number: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx
      .select({ id: request.id })
      .from(request)
      .where(and(eq(request.number, input.number), eq(request.requesterId, viewer.id)));
    if (!row) return notFound('This request');
    const { ignored, state } = await deliver(tx, row.id, { type: 'withdrawn', person: viewer.id });
    if (ignored) return refuse('ended', `This request had already ended${state.outcome ? ` as ${state.outcome}` : ''}. Nothing was changed.`);
    await record(tx, { actor: viewer.id, action: 'withdraw', object: 'request', objectId: row.id });
    return { ok: true };
  });
}
