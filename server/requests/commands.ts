import { and, eq, sql } from 'drizzle-orm';
import { keptDocument, runFormat } from '../../core/documents/index.ts';
import { newState } from '../../core/engine/index.ts';
import { validateAnswers } from '../../core/forms/index.ts';
import { zoneOf, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { item, person, question, revision, run, serviceCase } from '../db/schema/index.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { definitionOf } from '../items/definitions.ts';
import { deliver, deliverTo } from '../runtime/deliver.ts';
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
      .select({
        revisionId: revision.id,
        number: revision.number,
        zone: zoneOf,
        earlier: sql<string | null>`(select c.number from service_case c where c.requester_id = ${viewer.id} and c.once_key = ${input.onceKey})`,
      })
      .from(item)
      .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
      .innerJoin(person, eq(person.id, viewer.id))
      .where(and(eq(item.id, input.itemId), eq(item.kind, 'item')));
    if (!offered) return notFound('This item');
    if (offered.earlier !== null) return { ok: true, number: Number(offered.earlier) };
    if (offered.number !== input.revision)
      return refuse('changed-meanwhile', 'The form was changed while you filled it in. What you typed is kept; look it over and send it again.');
    const { form } = await definitionOf(tx, offered.revisionId);
    const exists = await existing(tx, input.answers);
    const held = validateAnswers(form, input.answers, (kind, id) => exists.has(`${kind} ${id}`));
    if (!held.ok)
      return refuse(
        'invalid',
        held.problems.length === 1 ? 'One answer needs another look.' : `${held.problems.length} answers need another look.`,
        held.problems,
      );
    const at = now();
    const begun = newState();
    // The case, its run and the entry in the log, in one go; nothing where the same form was sent twice at once.
    const { rows } = await tx.execute<{ id: string; case_id: string; number: string }>(sql`
      with made as (
        insert into service_case (kind, item_id, revision_id, requester_id, answers, opened_at, once_key)
        values ('request', ${input.itemId}, ${offered.revisionId}, ${viewer.id}, ${JSON.stringify(held.answers)}::jsonb, ${at.toISOString()}, ${input.onceKey})
        on conflict do nothing returning id, number
      ), begun as (
        insert into run (case_id, revision_id, began_at, state)
        select id, ${offered.revisionId}, ${at.toISOString()}, ${JSON.stringify(keptDocument(runFormat, begun))}::jsonb from made returning id, case_id
      ), logged as (
        insert into change_log (actor_id, action, object, object_id, detail)
        select ${viewer.id}, 'ask', 'request', id::text, jsonb_build_object('number', number, 'revision', ${offered.number}::int) from made
      )
      select begun.id, made.id as case_id, made.number from begun join made on made.id = begun.case_id`);
    const [made] = rows;
    if (!made) {
      // The same form sent twice at once: the other one has it.
      const [other] = await tx
        .select({ number: serviceCase.number })
        .from(serviceCase)
        .where(and(eq(serviceCase.requesterId, viewer.id), eq(serviceCase.onceKey, input.onceKey)));
      return other ? { ok: true, number: other.number } : refuse('invalid', 'The request could not be opened. Send it again.');
    }
    const number = Number(made.number);
    // Nobody else knows of this run yet: there is nothing to lock.
    const fresh = {
      id: made.id,
      caseId: made.case_id,
      number,
      revisionId: offered.revisionId,
      requesterId: viewer.id,
      seq: 0,
      state: begun,
      isFirst: true,
    };
    const { ignored } = await deliverTo(
      tx,
      fresh,
      {
        type: 'begin',
        requester: { person: viewer.id },
        number: requestNumber(number),
        answers: held.answers,
        zone: offered.zone,
        ...(input.causes?.length && { causes: input.causes }),
      },
      at,
    );
    if (ignored) throw new Error(`A new request cannot have begun already (${ignored}).`);
    return { ok: true, number };
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
