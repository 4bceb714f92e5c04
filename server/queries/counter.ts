import { and, desc, eq, ilike, inArray, isNotNull, isNull, lt, notInArray, or, sql } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { milestonesOf, rooms, stepKinds } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { approval, call, gate, item, message, person, question, request, revision, runStep, task, team, webSystem } from '../db/schema/index.ts';
import { definitionOf } from '../runtime/definitions.ts';
import { namesFor, optionsOf, shortNames, valueWords, type Names } from '../runtime/words.ts';

/** What can be asked for, with the words that find it. */
export async function browse(search: string, most = 500) {
  const like = `%${search.trim().replace(/[\\%_]/g, '\\$&')}%`;
  return db()
    .select({
      id: item.id,
      name: revision.name,
      summary: revision.summary,
      category: revision.category,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(
      and(
        eq(item.kind, 'item'),
        search.trim() ? or(ilike(revision.name, like), ilike(revision.summary, like), ilike(revision.category, like)) : undefined,
      ),
    )
    .orderBy(revision.category, revision.name)
    .limit(most);
}

/** The published form of an item. */
export async function offeredItem(itemId: string): Promise<{ id: string; revision: number; definition: ItemDefinition } | undefined> {
  const [row] = await db()
    .select({ id: item.id, revision: revision.number, definition: revision.definition })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.id, itemId), eq(item.kind, 'item')));
  return row;
}

const pageSize = 30;

/** The viewer's requests, newest first, a page at a time by number. */
export async function myRequests(viewer: Viewer, before?: number) {
  const rows = await db()
    .select({
      number: request.number,
      item: revision.name,
      openedAt: request.openedAt,
      endedAt: request.endedAt,
      outcome: request.outcome,
      id: request.id,
    })
    .from(request)
    .innerJoin(revision, eq(revision.id, request.revisionId))
    .where(and(eq(request.requesterId, viewer.id), before ? lt(request.number, before) : undefined))
    .orderBy(desc(request.number))
    .limit(pageSize + 1);
  const page = rows.slice(0, pageSize);
  const standing = await whereItStands(page.filter((r) => !r.outcome).map((r) => r.id));
  return { rows: page.map((r) => ({ ...r, standing: standing.get(r.id) })), next: rows.length > pageSize ? page.at(-1)?.number : undefined };
}

/** Of open requests: the step under way, who has it, and since when. */
export interface Standing {
  step: string;
  who: string[];
  since: Date;
  stuck: boolean;
}
export async function whereItStands(requestIds: string[]): Promise<Map<string, Standing>> {
  if (requestIds.length === 0) return new Map();
  const [steps, asked, work, questions, calls] = await Promise.all([
    db()
      .select({
        requestId: runStep.requestId,
        key: runStep.key,
        step: runStep.name,
        since: runStep.beganAt,
        stuck: isNotNull(runStep.stuckCause),
        kind: runStep.kind,
      })
      .from(runStep)
      .where(and(inArray(runStep.requestId, requestIds), isNull(runStep.endedAt)))
      .orderBy(runStep.order),
    db()
      .select({ requestId: gate.requestId, key: gate.key, name: person.name })
      .from(gate)
      .innerJoin(approval, eq(approval.gateId, gate.id))
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(inArray(gate.requestId, requestIds), isNull(gate.closedAt), eq(approval.status, 'waiting')))
      .orderBy(person.name),
    db()
      .select({ requestId: task.requestId, key: task.key, name: sql<string>`coalesce(${person.name}, ${team.name})` })
      .from(task)
      .leftJoin(person, sql`${person.id} = coalesce(${task.takenBy}, ${task.personId})`)
      .leftJoin(team, eq(team.id, task.teamId))
      .where(and(inArray(task.requestId, requestIds), isNull(task.closedAt))),
    db()
      .select({ requestId: question.requestId, key: question.key, name: person.name })
      .from(question)
      .innerJoin(person, eq(person.id, question.toId))
      .where(and(inArray(question.requestId, requestIds), isNull(question.closedAt))),
    db()
      .select({
        requestId: call.requestId,
        key: call.key,
        name: sql<string>`coalesce(${webSystem.name}, 'the ' || split_part(${call.action}, '.', 1))`,
      })
      .from(call)
      .leftJoin(webSystem, sql`${call.action} like 'web.' || ${webSystem.id} || '.%'`)
      .where(and(inArray(call.requestId, requestIds), eq(call.status, 'waiting'))),
  ]);
  const who = new Map<string, string[]>();
  for (const a of [...asked, ...work, ...questions, ...calls])
    who.set(`${a.requestId} ${a.key}`, [...(who.get(`${a.requestId} ${a.key}`) ?? []), a.name]);
  return new Map(
    steps
      .filter((s) => !holders.includes(s.kind) || s.stuck)
      .map((s) => {
        const names = who.get(`${s.requestId} ${s.key}`) ?? [];
        return [s.requestId, { step: s.step, since: s.since, stuck: Boolean(s.stuck), who: names }];
      }),
  );
}

/** Steps that are under way because of what they hold; what they hold says where the request stands. */
const holders: string[] = stepKinds.filter((k) => rooms[k].holds);

/** One of the viewer's own requests. */
export async function myRequest(viewer: Viewer, number: number) {
  const [row] = await db()
    .select()
    .from(request)
    .where(and(eq(request.number, number), eq(request.requesterId, viewer.id)));
  if (!row) return undefined;
  const definition = await definitionOf(db(), row.revisionId);
  const names = await namesFor(db(), Object.values(row.answers));
  const [steps, decisions, told, questions] = await Promise.all([
    db()
      .select({
        key: runStep.key,
        name: runStep.name,
        beganAt: runStep.beganAt,
        endedAt: runStep.endedAt,
        end: runStep.end,
        note: runStep.note,
        stuck: isNotNull(runStep.stuckCause),
      })
      .from(runStep)
      .where(and(eq(runStep.requestId, row.id), notInArray(runStep.kind, unseen)))
      .orderBy(runStep.order),
    db()
      .select({ key: gate.key, name: person.name, status: approval.status, comment: approval.comment, decidedAt: approval.decidedAt })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(eq(gate.requestId, row.id), isNotNull(approval.decidedAt))),
    db()
      .select({
        id: message.id,
        subject: message.subject,
        text: message.text,
        content: message.content,
        createdAt: message.createdAt,
        sentAt: message.sentAt,
      })
      .from(message)
      .where(and(eq(message.requestId, row.id), eq(message.toId, viewer.id), isNull(message.approvalId)))
      .orderBy(message.createdAt),
    db()
      .select({ id: question.id, name: question.name, words: question.words, fields: question.fields, openedAt: question.openedAt })
      .from(question)
      .where(and(eq(question.requestId, row.id), eq(question.toId, viewer.id), isNull(question.closedAt)))
      .orderBy(question.openedAt),
  ]);
  return {
    number: row.number,
    item: definition.name,
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    reason: row.reason,
    answers: answerWords(definition, row.answers, names),
    standing: (await whereItStands(row.outcome ? [] : [row.id])).get(row.id),
    steps,
    decisions,
    told,
    /** A question without fields of its own is the form itself, sent back. */
    questions: questions.map((q) => ({
      ...q,
      fields: q.fields ?? definition.form.fields,
      answers: q.fields ? {} : row.answers,
      back: q.fields === null,
    })),
    names: shortNames(names),
    milestones: milestonesOf(definition.plan).map((m) => ({ ...m, reached: row.state.reached?.includes(m.id) === true })),
    shown: row.state.shown,
    mayWithdraw: !row.outcome && !row.state.noReturn,
  };
}

/** The answers in words, in the form's order, without what was left empty. */
export function answerWords(definition: ItemDefinition, answers: Answers, names: Names): { label: string; words: string }[] {
  return definition.form.fields.flatMap((f) => {
    const words = valueWords(answers[f.id], names, optionsOf(definition, `form.${f.id}`));
    return words ? [{ label: f.label, words }] : [];
  });
}

/** Steps that only steer the run; a requester need not see them. */
const unseen: string[] = stepKinds.filter((k) => rooms[k].steers);
