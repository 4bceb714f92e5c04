import { hasFiles } from '../../core/forms/index.ts';
import { and, eq } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { milestonesOf } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';

import { readsAlong } from '../conversation/mirror.ts';
import { requestConversation } from '../conversation/read.ts';
import { db } from '../db/database.ts';
import { person, revision, run, serviceCase, task, team } from '../db/schema/index.ts';
import { namesFor, readIn, shortNames } from '../people/names.ts';
import { mayTakeOver, mine } from './whose.ts';
import { promisedOf } from '../requests/promised.ts';
import { meetingsOf } from '../meetings/read.ts';
import { lettersOf } from '../letters/read.ts';
import { answerWords } from '../requests/answers.ts';

/** Everything needed to do a task. */
export async function taskFor(viewer: Viewer, id: string) {
  const requester = alias(person, 'requester');
  const taker = alias(person, 'taker');
  const whom = alias(person, 'whom');
  const doer = alias(person, 'doer');
  const [row] = await db()
    .select({
      t: task,
      team: team.name,
      takenBy: taker.name,
      doneBy: doer.name,
      caseId: serviceCase.id,
      number: serviceCase.number,
      openedAt: serviceCase.openedAt,
      endedAt: serviceCase.endedAt,
      requesterId: serviceCase.requesterId,
      outcome: serviceCase.outcome,
      answers: serviceCase.answers,
      state: run.state,
      definition: revision.definition,
      requester: requester.name,
      email: requester.email,
      forWhom: whom.name,
    })
    .from(task)
    .innerJoin(run, eq(run.id, task.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(revision, eq(revision.id, run.revisionId))
    .innerJoin(requester, eq(requester.id, serviceCase.requesterId))
    .leftJoin(whom, eq(whom.id, serviceCase.forId))
    .leftJoin(team, eq(team.id, task.teamId))
    .leftJoin(taker, eq(taker.id, task.takenBy))
    .leftJoin(doer, eq(doer.id, task.doneBy))
    .where(and(eq(task.id, id), has(viewer, 'administrator') ? undefined : mine(viewer)));
  if (!row) return undefined;
  const { t } = row;
  const names = readIn(viewer.zone, await namesFor(db(), [...Object.values(row.answers), ...Object.values(t.draft.values)]));
  const promised = (await promisedOf([{ ...row, id: t.runId }])).get(t.runId)?.whole;
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
    /** What is promised of the request as a whole. */
    promised,
    requester: { name: row.requester, email: row.email },
    forWhom: row.forWhom ?? undefined,
    answers: answerWords(row.definition, row.answers, names),
    letters: await lettersOf(row.caseId),
    meetings: await meetingsOf(row.caseId, viewer.id),
    /** Milestones still to come, for what is added late. */
    milestones: row.outcome ? [] : milestonesOf(row.definition.plan).filter((m) => !reached.has(m.id)),
    open: !row.outcome,
    /** The fields of the request that whoever does it may correct, as they are now. */
    correctable: {
      fields: row.definition.form.fields.filter((f) => t.corrects.includes(f.id) && !hasFiles(f.kind)),
      answers: row.answers,
    },
    /** The systems in which what is said to whoever asked is read as well. */
    readAlong: (await readsAlong(db(), row.caseId)).map((s) => s.name),
    /** What was said about the request, the desk's own notes too, unless it is one's own request. */
    words: await requestConversation({ caseId: row.caseId, number: row.number }, row.requesterId !== viewer.id, viewer.zone),
  };
}
