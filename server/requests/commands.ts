import { and, eq } from 'drizzle-orm';
import { heldAgain, notKnownOf, validateAnswers } from '../../core/forms/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { ofRequest, question, run, serviceCase } from '../db/schema/index.ts';
import { answersRefused, notFound, refuse, type Result } from '../refusal.ts';
import { definitionOf } from '../items/definitions.ts';
import { deliver } from '../runtime/deliver.ts';
import { knownOf } from './begun.ts';
import { holdUnique, takenAmong } from './unique.ts';
import { askedOn } from '../hours/asked-on.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { existing } from '../people/existing.ts';
import { record } from '../changes/record.ts';

/** The requester takes the request back; what is open is closed as no longer needed. */
export async function withdrawRequest(viewer: Viewer, input: { number: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx
      .select({ id: run.id, caseId: run.caseId })
      .from(serviceCase)
      .innerJoin(run, eq(run.caseId, serviceCase.id))
      .where(and(eq(serviceCase.number, input.number), eq(serviceCase.kind, 'request'), eq(serviceCase.requesterId, viewer.id)));
    if (!row) return notFound('This request');
    const { ignored, state } = await deliver(tx, row.id, { type: 'withdrawn', person: viewer.id });
    if (ignored === 'no-return') return refuse('ended', 'This request has passed the point after which it cannot be withdrawn. Nothing was changed.');
    if (ignored) return refuse('ended', `This request had already ended${state.outcome ? ` as ${state.outcome}` : ''}. Nothing was changed.`);
    await record(tx, { actor: viewer.id, action: 'withdraw', object: 'request', objectId: row.caseId });
    return { ok: true };
  });
}

/** The requester answers a question, or corrects what was sent back; the plan goes on. `cameAs`: the mail by which they did. */
export async function answerQuestion(
  viewer: Viewer,
  input: { id: string; values: Record<string, unknown>; cameAs?: string | undefined },
): Promise<Result> {
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
    const [row] = await tx
      .select({
        revisionId: run.revisionId,
        caseId: run.caseId,
        itemId: ofRequest.itemId,
        answers: serviceCase.answers,
        openedAt: serviceCase.openedAt,
        whom: serviceCase.forId,
      })
      .from(run)
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .where(eq(run.id, asked.runId));
    const form = asked.fields ? { fields: asked.fields } : (await definitionOf(tx, row!.revisionId)).form;
    const exists = await existing(tx, Object.values(input.values));
    const whom = row!.whom ?? undefined;
    const known = await knownOf(tx, viewer.id, form, input.values, whom);
    const held = validateAnswers(
      form,
      heldAgain(form, input.values, row!.answers, known),
      exists.for(viewer.id, row!.caseId, whom),
      undefined,
      await askedOn(calendarsOf(tx), form, viewer, row!.openedAt),
    );
    if (!held.ok) return answersRefused(held.problems);
    const unknown = notKnownOf(form, held.answers);
    if (unknown.length > 0) return answersRefused(unknown);
    const given = [{ itemId: row!.itemId, form, answers: held.answers, caseId: row!.caseId }];
    await holdUnique(tx, given);
    const taken = (await takenAmong(tx, given)).get(0);
    if (taken) return answersRefused(taken);
    const { ignored } = await deliver(
      tx,
      asked.runId,
      asked.fields
        ? { type: 'replied', key: asked.key, person: viewer.id, values: held.answers }
        : { type: 'resubmitted', key: asked.key, person: viewer.id, answers: held.answers },
    );
    if (input.cameAs !== undefined) await tx.update(question).set({ cameAs: input.cameAs }).where(eq(question.id, asked.id));
    await record(tx, { actor: viewer.id, action: ignored ? 'answer-ignored' : 'answer', object: 'question', objectId: asked.id });
    return ignored ? refuse('ended', 'This is not asked any more. Nothing was changed.') : { ok: true };
  });
}
