import { and, desc, eq, getTableColumns, isNotNull, isNull, lt, notInArray, notLike, or, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';

import { own } from '../../core/boundary/index.ts';
import { fieldType, hasFiles, type Answers, type Field, type Form } from '../../core/forms/index.ts';
import { isEmpty, isOfType } from '../../core/values/index.ts';
import { offeredItem } from '../items/offered.ts';
import { milestonesOf, requesterNames, rooms, stepKinds } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { readsAlong } from '../conversation/mirror.ts';
import { readersNow } from '../conversation/readers.ts';
import { requestConversation } from '../conversation/read.ts';
import { db, type Reader } from '../db/database.ts';
import { hoursFor } from '../hours/asked-on.ts';
import { promisedOf } from './promised.ts';
import { approval, gate, message, ofRequest, person, question, revision, run, runStep, serviceCase, serviceOrder } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { meetingsOf } from '../meetings/read.ts';
import { lettersOf } from '../letters/read.ts';
import { namesFor, readIn, shortNames } from '../people/names.ts';

import { pageOf } from '../lists/page.ts';

import { whereItStands } from './standing.ts';
import { answerWords } from './answers.ts';

const pageSize = 30;
const whom = alias(person, 'whom');

/** What somebody asked for, and what was asked for them. */
const theirs = (viewer: Viewer) => or(eq(serviceCase.requesterId, viewer.id), eq(serviceCase.forId, viewer.id));

/** What lists of requests show of each. */
export const lineColumns = (tx: Reader) =>
  tx
    .select({
      number: serviceCase.number,
      item: revision.name,
      openedAt: serviceCase.openedAt,
      endedAt: serviceCase.endedAt,
      outcome: serviceCase.outcome,
      id: serviceCase.id,
      revisionId: ofRequest.revisionId,
      requesterId: serviceCase.requesterId,
      requester: person.name,
      forWhom: whom.name,
      order: serviceOrder.number,
    })
    .from(serviceCase)
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .leftJoin(whom, eq(whom.id, serviceCase.forId))
    .leftJoin(serviceOrder, eq(serviceOrder.id, serviceCase.orderId))
    .$dynamic();

/** The same with where each stands, as whoever follows it reads it. */
export async function caseLines(viewer: Viewer, rows: Awaited<ReturnType<typeof lineColumns>>) {
  const standing = await whereItStands(rows.filter((r) => !r.outcome).map((r) => r.id));
  const lines = rows.map(async ({ revisionId, requesterId, requester, forWhom, ...r }) => {
    const at = standing.get(r.id);
    /** Who asked for them, or for whom they asked. */
    const beside = requesterId === viewer.id ? forWhom && `for ${forWhom}` : `asked for you by ${requester}`;
    return { ...r, beside, standing: at && { ...at, step: (await namesIn(revisionId)).get(at.stepId) ?? at.step } };
  });
  return Promise.all(lines);
}

/** The viewer's requests, and those asked for them, newest first, a page at a time by number. */
export async function myRequests(viewer: Viewer, before?: number) {
  const rows = await lineColumns(db())
    .where(and(theirs(viewer), notByItself(viewer), before ? lt(serviceCase.number, before) : undefined))
    .orderBy(desc(serviceCase.number))
    .limit(pageSize + 1);
  const page = pageOf(rows, pageSize, (last) => last.number);
  return { ...page, rows: await caseLines(viewer, page.rows) };
}

/** What came to others by itself in the viewer's name: they did not ask for it, and there may be hundreds. */
const notByItself = (viewer: Viewer) =>
  sql`not (service_case.for_id is not null and service_case.for_id <> ${viewer.id} and exists (select from item i where i.id = service_case.item_id and i.kind = 'byItself'))`;

/** What the requester reads of each step of a revision's plan. */
const namesIn = async (revisionId: string) => requesterNames((await definitionOf(db(), revisionId)).plan);

/** Whether a request is the viewer's own, or was asked for them. */
export async function isRequesterOf(viewer: Viewer, number: number): Promise<boolean> {
  return (await db().$count(serviceCase, and(eq(serviceCase.number, number), theirs(viewer)))) > 0;
}

/**
 * What the viewer answered in a request of their own, as far as the form asks the same today: to be asked again. Files stay with
 * the request that they came with.
 */
export async function answersAgain(
  viewer: Viewer,
  number: number,
  form: Form,
): Promise<{ answers: Answers; names: Record<string, string> } | undefined> {
  const [row] = await db()
    .select({ answers: serviceCase.answers })
    .from(serviceCase)
    .where(and(eq(serviceCase.number, number), eq(serviceCase.requesterId, viewer.id)));
  if (!row) return undefined;
  const fits = (f: Field) => {
    const value = own(row.answers, f.id);
    return !isEmpty(value) && !f.held && !hasFiles(f.kind) && isOfType(value!, fieldType(f.kind)) ? [[f.id, value!] as const] : [];
  };
  const answers = Object.fromEntries(form.fields.flatMap(fits));
  return { answers, names: shortNames(await namesFor(db(), Object.values(answers))) };
}

/** One of the viewer's own requests, or one that was asked for them; that is theirs to read only. */
export async function myRequest(viewer: Viewer, number: number) {
  const [found] = await db()
    .select({ service_case: { ...getTableColumns(serviceCase), ...ofRequest }, run, person, whom, service_order: serviceOrder })
    .from(serviceCase)
    .innerJoin(run, eq(run.caseId, serviceCase.id))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .leftJoin(whom, eq(whom.id, serviceCase.forId))
    .leftJoin(serviceOrder, eq(serviceOrder.id, serviceCase.orderId))
    .where(and(eq(serviceCase.number, number), eq(serviceCase.kind, 'request'), theirs(viewer)));
  if (!found) return undefined;
  const { service_case: row, run: itsRun } = found;
  const asksSelf = row.requesterId === viewer.id;
  const definition = await definitionOf(db(), row.revisionId);
  const names = readIn(viewer.zone, await namesFor(db(), Object.values(row.answers)));
  const { id } = itsRun;
  const promised = (await promisedOf([{ id, openedAt: row.openedAt, endedAt: row.endedAt, requesterId: row.requesterId, definition }])).get(id);
  const [steps, decisions, told, questions, words, readers, along, letters, meetings] = await Promise.all([
    db()
      .select({
        key: runStep.key,
        step: runStep.step,
        name: runStep.name,
        beganAt: runStep.beganAt,
        endedAt: runStep.endedAt,
        end: runStep.end,
        note: runStep.note,
        stuck: isNotNull(runStep.stuckCause),
      })
      .from(runStep)
      .where(and(eq(runStep.runId, itsRun.id), notInArray(runStep.kind, unseen)))
      .orderBy(runStep.order),
    db()
      .select({ key: gate.key, name: person.name, status: approval.status, comment: approval.comment, decidedAt: approval.decidedAt })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(eq(gate.runId, itsRun.id), isNotNull(approval.decidedAt))),
    db()
      .select({
        id: message.id,
        subject: message.subject,
        text: message.text,
        content: message.content,
        /** The files that went with it. */
        files: sql<
          { id: string; name: string }[]
        >`coalesce((select json_agg(json_build_object('id', f.id, 'name', f.name) order by array_position(message.files, f.id))
          from stored_file f where f.id = any(message.files)), '[]')`,
        createdAt: message.createdAt,
        sentAt: message.sentAt,
      })
      .from(message)
      .where(and(eq(message.caseId, row.id), eq(message.toId, viewer.id), isNull(message.approvalId), notLike(message.key, 'word:%')))
      .orderBy(message.createdAt),
    db()
      .select({ id: question.id, name: question.name, words: question.words, fields: question.fields, openedAt: question.openedAt })
      .from(question)
      .where(and(eq(question.runId, itsRun.id), eq(question.toId, viewer.id), isNull(question.closedAt)))
      .orderBy(question.openedAt),
    requestConversation({ caseId: row.id, number: row.number }, false, viewer.zone),
    asksSelf ? readersNow(db(), row.id) : [],
    asksSelf ? readsAlong(db(), row.id) : [],
    lettersOf(row.id),
    meetingsOf(row.id, viewer.id),
  ]);
  const called = requesterNames(definition.plan);
  const standing = row.outcome ? undefined : (await whereItStands([row.id])).get(row.id);
  return {
    number: row.number,
    item: definition.name,
    /** Where it can be asked for again: the item, while it is offered. */
    again: asksSelf && row.outcome && row.itemId ? (await offeredItem(viewer, row.itemId))?.id : undefined,
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    reason: row.reason,
    answers: answerWords(definition, row.answers, names, true),
    standing: standing && { ...standing, step: called.get(standing.stepId) ?? standing.step },
    steps: steps.map(({ step, ...s }) => ({ ...s, name: called.get(step) ?? s.name })),
    decisions,
    told,
    words,
    letters,
    meetings,
    /** Who reads what they write about it now: teams, people and those at a system that has something under way; nobody where nothing is to be done. */
    readBy: [...new Set([...readers.map((p) => p.as), ...along.map((s) => s.name)])].sort(),
    /** Whether somebody of the desk is among them. */
    deskReads: readers.length > 0,
    /** Whether they write about it, who asked for it themselves. */
    mine: asksSelf,
    /** By whose hours working days are counted in a form that was sent back. */
    hours: questions.some((q) => q.fields === null) ? await hoursFor(definition.form, viewer) : undefined,
    /** A question without fields of its own is the form itself, sent back. */
    questions: questions.map(({ fields, ...q }) => {
      const { form } = definition;
      return {
        ...q,
        form: fields ? { fields } : { fields: form.fields, rules: form.rules, sections: form.sections },
        answers: fields ? {} : row.answers,
        back: fields === null,
      };
    }),
    names: shortNames(names),
    promised: promised?.whole,
    milestones: milestonesOf(definition.plan).map((m) => ({
      ...m,
      reached: itsRun.state.reached?.includes(m.id) === true,
      standing: promised?.milestones.get(m.id)?.standing,
    })),
    shown: itsRun.state.shown,
    /** The order it was sent with. */
    order: asksSelf ? found.service_order?.number : undefined,
    /** Who asked for them, or for whom they asked. */
    askedBy: asksSelf ? undefined : found.person.name,
    forWhom: asksSelf ? found.whom?.name : undefined,
    mayWithdraw: asksSelf && !row.outcome && !itsRun.state.noReturn && !itsRun.state.ending,
  };
}

/** Steps that only steer the run; a requester need not see them. */
const unseen: string[] = stepKinds.filter((k) => rooms[k].steers);
