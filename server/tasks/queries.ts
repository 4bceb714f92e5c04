import { and, asc, eq, sql, type SQL } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { milestonesOf } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';

import { db } from '../db/database.ts';
import { person, revision, run, serviceCase, task, team, teamMember } from '../db/schema/index.ts';
import { namesFor, shortNames } from '../people/names.ts';
import { momentCursor, pageOf } from '../lists/page.ts';
import { mayTakeOver, mine } from './whose.ts';
import { answerWords } from '../requests/answers.ts';

const pageSize = 50;

/** Open tasks of the viewer and their teams, the one due first on top. */
export async function tasksFor(viewer: Viewer, which: 'all' | 'mine', after?: { dueAt: Date; id: string }) {
  const requester = alias(person, 'requester');
  const taker = alias(person, 'taker');
  const later = after ? sql`and (due_order, id) > (${after.dueAt.toISOString()}::timestamptz, ${after.id}::uuid)` : sql``;
  /** The first of those that one index holds in order; a page is among the firsts of all. */
  const firstOf = (whose: SQL) =>
    sql`(select id, due_order from ${task} where ${whose} and closed_at is null ${later} order by due_order, id limit ${pageSize + 1})`;
  const own = sql`${firstOf(sql`person_id = ${viewer.id}`)} union ${firstOf(sql`taken_by = ${viewer.id}`)}`;
  const teams = sql`select t.* from ${teamMember} m cross join lateral ${firstOf(sql`team_id = m.team_id`)} t where m.person_id = ${viewer.id}`;
  const page = sql`(select id, due_order from (${which === 'mine' ? own : sql`${own} union (${teams})`}) firsts order by due_order, id limit ${pageSize + 1})`;
  const rows = await db()
    .select({
      id: task.id,
      name: task.name,
      team: team.name,
      takenBy: taker.name,
      mine: sql<boolean>`coalesce(${task.personId} = ${viewer.id} or ${task.takenBy} = ${viewer.id}, false)`,
      dueAt: task.dueAt,
      sortAt: task.dueOrder,
      openedAt: task.openedAt,
      number: serviceCase.number,
      item: revision.name,
      requester: requester.name,
    })
    .from(task)
    .innerJoin(sql`${page} page`, sql`page.id = ${task.id}`)
    .innerJoin(run, eq(run.id, task.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .innerJoin(requester, eq(requester.id, serviceCase.requesterId))
    .leftJoin(team, eq(team.id, task.teamId))
    .leftJoin(taker, eq(taker.id, task.takenBy))
    .orderBy(asc(task.dueOrder), asc(task.id));
  return pageOf(rows, pageSize, (last) => momentCursor(last.sortAt, last.id));
}

/** Everything needed to do a task. */
export async function taskFor(viewer: Viewer, id: string) {
  const requester = alias(person, 'requester');
  const taker = alias(person, 'taker');
  const doer = alias(person, 'doer');
  const [row] = await db()
    .select({
      t: task,
      team: team.name,
      takenBy: taker.name,
      doneBy: doer.name,
      number: serviceCase.number,
      openedAt: serviceCase.openedAt,
      outcome: serviceCase.outcome,
      answers: serviceCase.answers,
      state: run.state,
      definition: revision.definition,
      requester: requester.name,
      email: requester.email,
    })
    .from(task)
    .innerJoin(run, eq(run.id, task.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .innerJoin(requester, eq(requester.id, serviceCase.requesterId))
    .leftJoin(team, eq(team.id, task.teamId))
    .leftJoin(taker, eq(taker.id, task.takenBy))
    .leftJoin(doer, eq(doer.id, task.doneBy))
    .where(and(eq(task.id, id), has(viewer, 'administrator') ? undefined : mine(viewer)));
  if (!row) return undefined;
  const { t } = row;
  const names = await namesFor(db(), [...Object.values(row.answers), ...Object.values(t.draft.values)]);
  const reached = new Set(row.state.reached);
  return {
    id: t.id,
    name: t.name,
    team: row.team,
    takenBy: row.takenBy,
    mine: t.takenBy === viewer.id || t.personId === viewer.id,
    /** A colleague has it: to be read, and taken over by those who may. */
    ofAnother: t.takenBy !== null && t.takenBy !== viewer.id,
    mayTakeOver: mayTakeOver(viewer),
    instructions: t.instructions,
    checklist: t.checklist,
    fields: t.fields,
    draft: t.draft,
    names: shortNames(names),
    dueAt: t.dueAt,
    openedAt: t.openedAt,
    closedAt: t.closedAt,
    result: t.result,
    doneBy: row.doneBy,
    number: row.number,
    askedAt: row.openedAt,
    item: row.definition.name,
    requester: { name: row.requester, email: row.email },
    answers: answerWords(row.definition, row.answers, names),
    /** Milestones still to come, for what is added late. */
    milestones: row.outcome ? [] : milestonesOf(row.definition.plan).filter((m) => !reached.has(m.id)),
    open: !row.outcome,
  };
}
