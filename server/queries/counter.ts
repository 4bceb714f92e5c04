import { and, desc, eq, ilike, isNotNull, isNull, lt, notInArray, or, sql } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { milestonesOf, rooms, stepKinds } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { approval, gate, item, message, person, question, revision, run, runStep, serviceCase } from '../db/schema/index.ts';
import { definitionOf } from '../runtime/definitions.ts';
import { namesFor, optionsOf, shortNames, valueWords, type Names } from '../runtime/words.ts';
import { anywhere } from './like.ts';
import { pageOf } from './page.ts';

/** What can be asked for, with the words that find it. */
export async function browse(search: string, most = 500) {
  const like = anywhere(search);
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
      number: serviceCase.number,
      item: revision.name,
      openedAt: serviceCase.openedAt,
      endedAt: serviceCase.endedAt,
      outcome: serviceCase.outcome,
      id: serviceCase.id,
    })
    .from(serviceCase)
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .where(and(eq(serviceCase.requesterId, viewer.id), before ? lt(serviceCase.number, before) : undefined))
    .orderBy(desc(serviceCase.number))
    .limit(pageSize + 1);
  const page = pageOf(rows, pageSize, (last) => last.number);
  const standing = await whereItStands(page.rows.filter((r) => !r.outcome).map((r) => r.id));
  return { ...page, rows: page.rows.map((r) => ({ ...r, standing: standing.get(r.id) })) };
}

/** Of open requests: the step under way, who has it, and since when. */
export interface Standing {
  step: string;
  who: string[];
  since: Date;
  stuck: boolean;
}
export async function whereItStands(caseIds: string[]): Promise<Map<string, Standing>> {
  if (caseIds.length === 0) return new Map();
  // One statement for all of a page: who has each open step is found by its key.
  const { rows } = await db().execute<{ id: string; step: string; since: string; stuck: boolean; who: string[] | null }>(sql`
    select r.case_id as id, s.name as step, s.began_at as since, s.stuck_cause is not null as stuck, (
      select array_agg(n order by n) from (
        select p.name from gate g join approval a on a.gate_id = g.id and a.status = 'waiting' join person p on p.id = a.person_id
          where g.run_id = s.run_id and g.key = s.key and g.closed_at is null
        union all select coalesce(p.name, m.name) from task t left join person p on p.id = coalesce(t.taken_by, t.person_id)
          left join team m on m.id = t.team_id where t.run_id = s.run_id and t.key = s.key and t.closed_at is null
        union all select p.name from question q join person p on p.id = q.to_id
          where q.run_id = s.run_id and q.key = s.key and q.closed_at is null
        union all select coalesce(w.name, 'the ' || split_part(c.action, '.', 1)) from call c left join web_system w on c.action like 'web.' || w.id || '.%'
          where c.run_id = s.run_id and c.key = s.key and c.status = 'waiting'
      ) as names(n)) as who
    from run r join run_step s on s.run_id = r.id where r.case_id = any(${sql.param(caseIds)}::uuid[]) and s.ended_at is null
      and (s.stuck_cause is not null or s.kind <> all(${sql.param(holders)}::text[]))
    order by s."order"`);
  return new Map(rows.map((r) => [r.id, { step: r.step, since: new Date(r.since), stuck: r.stuck, who: r.who ?? [] }]));
}

/** Steps that hold others: where a request stands is told by those. */
const holders: string[] = stepKinds.filter((k) => rooms[k].holds);

/** One of the viewer's own requests. */
export async function myRequest(viewer: Viewer, number: number) {
  const [found] = await db()
    .select()
    .from(serviceCase)
    .innerJoin(run, eq(run.caseId, serviceCase.id))
    .where(and(eq(serviceCase.number, number), eq(serviceCase.requesterId, viewer.id)));
  if (!found) return undefined;
  const { service_case: row, run: itsRun } = found;
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
        createdAt: message.createdAt,
        sentAt: message.sentAt,
      })
      .from(message)
      .where(and(eq(message.caseId, row.id), eq(message.toId, viewer.id), isNull(message.approvalId)))
      .orderBy(message.createdAt),
    db()
      .select({ id: question.id, name: question.name, words: question.words, fields: question.fields, openedAt: question.openedAt })
      .from(question)
      .where(and(eq(question.runId, itsRun.id), eq(question.toId, viewer.id), isNull(question.closedAt)))
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
    milestones: milestonesOf(definition.plan).map((m) => ({ ...m, reached: itsRun.state.reached?.includes(m.id) === true })),
    shown: itsRun.state.shown,
    mayWithdraw: !row.outcome && !itsRun.state.noReturn,
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
