import { and, eq } from 'drizzle-orm';
import { newState } from '../../core/engine/index.ts';
import { validateAnswers } from '../../core/forms/index.ts';
import { zoneOf, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { item, person, question, revision, run, serviceCase } from '../db/schema/index.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { definitionOf } from '../items/definitions.ts';
import { deliver } from '../runtime/deliver.ts';
import { existing } from '../people/existing.ts';
import { record } from '../changes/record.ts';
import { requestNumber } from '../words.ts';

/** Asks for an item: holds the answers against the published form, opens the request and begins its plan. */
export async function submitRequest(
  viewer: Viewer,
  input: { itemId: string; revision: number; answers: Record<string, unknown>; onceKey: string; causes?: string[] },
): Promise<Result<{ number: number }>> {
  return db().transaction(async (tx): Promise<Result<{ number: number }>> => {
    const [offered] = await tx
      .select({ revisionId: revision.id, number: revision.number, definition: revision.definition })
      .from(item)
      .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
      .where(and(eq(item.id, input.itemId), eq(item.kind, 'item')));
    if (!offered) return notFound('This item');
    const [earlier] = await tx
      .select({ number: serviceCase.number })
      .from(serviceCase)
      .where(and(eq(serviceCase.requesterId, viewer.id), eq(serviceCase.onceKey, input.onceKey)));
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
    const [home] = await tx.select({ zone: zoneOf }).from(person).where(eq(person.id, viewer.id));
    const [made] = await tx
      .insert(serviceCase)
      .values({
        kind: 'request',
        itemId: input.itemId,
        revisionId: offered.revisionId,
        requesterId: viewer.id,
        answers: held.answers,
        openedAt: at,
        onceKey: input.onceKey,
      })
      .onConflictDoNothing()
      .returning({ id: serviceCase.id, number: serviceCase.number });
    if (!made) {
      // The same form sent twice at once: the other one has it.
      const [other] = await tx
        .select({ number: serviceCase.number })
        .from(serviceCase)
        .where(and(eq(serviceCase.requesterId, viewer.id), eq(serviceCase.onceKey, input.onceKey)));
      return other ? { ok: true, number: other.number } : refuse('invalid', 'The request could not be opened. Send it again.');
    }
    const [begun] = await tx
      .insert(run)
      .values({ caseId: made.id, revisionId: offered.revisionId, beganAt: at, state: newState() })
      .returning({ id: run.id });
    await record(tx, {
      actor: viewer.id,
      action: 'ask',
      object: 'request',
      objectId: made.id,
      detail: { number: made.number, revision: offered.number },
    });
    const { ignored } = await deliver(
      tx,
      begun!.id,
      {
        type: 'begin',
        requester: { person: viewer.id },
        number: requestNumber(made.number),
        answers: held.answers,
        zone: home?.zone ?? 'UTC',
        ...(input.causes?.length && { causes: input.causes }),
      },
      at,
    );
    if (ignored) throw new Error(`A new request cannot have begun already (${ignored}).`);
    return { ok: true, number: made.number };
  });
}

/** The requester takes the request back; what is open is closed as no longer needed. */
export async function withdrawRequest(viewer: Viewer, input: { number: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx
      .select({ id: run.id, caseId: run.caseId })
      .from(serviceCase)
      .innerJoin(run, eq(run.caseId, serviceCase.id))
      .where(and(eq(serviceCase.number, input.number), eq(serviceCase.requesterId, viewer.id)));
    if (!row) return notFound('This request');
    const { ignored, state } = await deliver(tx, row.id, { type: 'withdrawn', person: viewer.id });
    if (ignored === 'no-return') return refuse('ended', 'This request has passed the point after which it cannot be withdrawn. Nothing was changed.');
    if (ignored) return refuse('ended', `This request had already ended${state.outcome ? ` as ${state.outcome}` : ''}. Nothing was changed.`);
    await record(tx, { actor: viewer.id, action: 'withdraw', object: 'request', objectId: row.caseId });
    return { ok: true };
  });
}

/** The requester answers a question, or corrects what was sent back; the plan goes on. */
export async function answerQuestion(viewer: Viewer, input: { id: string; values: Record<string, unknown> }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const [asked] = await tx
      .select()
      .from(question)
      .where(and(eq(question.id, input.id), eq(question.toId, viewer.id)));
    if (!asked) return notFound('This question');
    if (asked.closedAt)
      return refuse(
        'ended',
        asked.result === 'answered'
          ? 'You have answered this already. Your first answer counts.'
          : 'This is not asked any more. Nothing was changed.',
      );
    const [row] = await tx.select({ revisionId: run.revisionId }).from(run).where(eq(run.id, asked.runId));
    const form = asked.fields ? { fields: asked.fields } : (await definitionOf(tx, row!.revisionId)).form;
    const exists = await existing(tx, input.values);
    const held = validateAnswers(form, input.values, (kind, id) => exists.has(`${kind} ${id}`));
    if (!held.ok)
      return refuse(
        'invalid',
        held.problems.length === 1 ? 'One answer needs another look.' : `${held.problems.length} answers need another look.`,
        held.problems,
      );
    const { ignored } = await deliver(
      tx,
      asked.runId,
      asked.fields
        ? { type: 'replied', key: asked.key, person: viewer.id, values: held.answers }
        : { type: 'resubmitted', key: asked.key, person: viewer.id, answers: held.answers },
    );
    await record(tx, { actor: viewer.id, action: ignored ? 'answer-ignored' : 'answer', object: 'question', objectId: asked.id });
    return ignored ? refuse('ended', 'This is not asked any more. Nothing was changed.') : { ok: true };
  });
}
