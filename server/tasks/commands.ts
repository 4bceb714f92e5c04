import { and, eq, getTableColumns } from 'drizzle-orm';
import { HandOver } from '../../core/posts/index.ts';
import { validateAnswers } from '../../core/forms/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { person, run, serviceCase, task } from '../db/schema/index.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { deliver, lockRun } from '../runtime/deliver.ts';
import { correctionsOf } from '../requests/corrections.ts';
import { sendWord } from '../conversation/request.ts';
import { bindFiles, filesIn } from '../files/whose.ts';
import { existing } from '../people/existing.ts';
import { record } from '../changes/record.ts';
import { momentWords } from '../words.ts';
import { isId } from '../ids.ts';
import { taskForYou } from '../mail/task-for-you.ts';
import { writeAbout } from '../mail/write.ts';
import { cannotDo } from '../people/existing.ts';
import { mine, mayTakeOver } from './whose.ts';

type Row = typeof task.$inferSelect & { caseId: string };

/** The task, if it is the viewer's and still open; its run is locked, and so the task is. */
async function openTask(tx: Tx, viewer: Viewer, id: string): Promise<{ ok: true; row: Row } | ReturnType<typeof refuse>> {
  if (!isId(id)) return notFound('This task');
  const [its] = await tx.select({ runId: task.runId }).from(task).where(eq(task.id, id));
  if (its) await lockRun(tx, its.runId);
  const [row] = await tx
    .select({ ...getTableColumns(task), caseId: run.caseId })
    .from(task)
    .innerJoin(run, eq(run.id, task.runId))
    .where(and(eq(task.id, id), has(viewer, 'administrator') ? undefined : mine(viewer)));
  if (!row) return notFound('This task');
  if (!row.closedAt) return { ok: true, row };
  const [by] = row.doneBy ? await tx.select({ name: person.name }).from(person).where(eq(person.id, row.doneBy)) : [];
  const when = momentWords(row.closedAt, viewer.zone);
  return refuse(
    'ended',
    row.result === 'done'
      ? `Already finished by ${by?.name ?? 'someone'}, ${when}. Nothing was changed.`
      : `This is not needed any more since ${when}. Nothing was changed.`,
  );
}

/** A task that a colleague has taken is theirs: nobody else fills it in, gives it back or finishes it. */
async function ofAnother(tx: Tx, viewer: Viewer, row: Row): Promise<ReturnType<typeof refuse> | undefined> {
  if (!row.takenBy || row.takenBy === viewer.id) return undefined;
  const [by] = await tx.select({ name: person.name }).from(person).where(eq(person.id, row.takenBy));
  const them = by?.name ?? 'Somebody else';
  return refuse(
    'changed-meanwhile',
    `${them} has taken it. Nothing of theirs was changed.${mayTakeOver(viewer) ? ' Take it over first if that is meant.' : ''}`,
  );
}

/**
 * Takes a task of one's team, or gives it back to the team. What a colleague has taken is taken over only on purpose
 * (`over`), by those whose job that is; the log says from whom.
 */
export async function takeTask(viewer: Viewer, input: { id: string; give: boolean; over?: boolean }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { row } = open;
    if (!row.teamId) return refuse('invalid', 'This task was given to one person; there is no team to take it from.');
    const theirs = await ofAnother(tx, viewer, row);
    const over = theirs !== undefined && input.over === true && !input.give && mayTakeOver(viewer);
    if (theirs && !over) return theirs;
    await tx
      .update(task)
      .set({ takenBy: input.give ? null : viewer.id })
      .where(eq(task.id, row.id));
    const action = input.give ? 'give-back' : over ? 'take-over' : 'take';
    await record(tx, { actor: viewer.id, action, object: 'task', objectId: row.id, ...(over && { detail: { from: row.takenBy } }) });
    return { ok: true };
  });
}

/**
 * Hands a task over to a person or to a team, who are told; what is filled in and checked off goes with it. What a colleague
 * has taken is not theirs to hand over.
 */
export async function handOver(viewer: Viewer, input: { id: string; person?: string | undefined; team?: string | undefined }): Promise<Result> {
  const who = input.person && isId(input.person) ? input.person : undefined;
  const group = input.team && isId(input.team) ? input.team : undefined;
  const held = holdTo(HandOver, { to: who, team: group });
  if (!held.ok) return held;
  return db().transaction(async (tx): Promise<Result> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { row } = open;
    const theirs = await ofAnother(tx, viewer, row);
    if (theirs) return theirs;
    const problem = await cannotDo(tx, who, group);
    if (problem) return refuse('invalid', problem, [{ field: 'to', sentence: problem }]);
    await tx
      .update(task)
      .set({ personId: who ?? null, teamId: group ?? null, takenBy: null })
      .where(eq(task.id, row.id));
    if (who) await writeAbout(tx, row.runId, taskForYou({ ...row, personId: who }));
    await record(tx, { actor: viewer.id, action: 'hand-over', object: 'task', objectId: row.id, detail: who ? { person: who } : { team: group } });
    return { ok: true };
  });
}

/** A word about the request from whoever has the task: to the requester, in their thread and on their page, or within the desk. */
export async function writeFromTask(
  viewer: Viewer,
  input: { id: string; words: string; inside?: boolean; files?: string[]; once?: string | undefined },
): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { runId, caseId } = open.row;
    const [its] = await tx
      .select({ requesterId: serviceCase.requesterId, outside: person.outside, number: serviceCase.number, revisionId: run.revisionId })
      .from(run)
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .innerJoin(person, eq(person.id, serviceCase.requesterId))
      .where(eq(run.id, runId));
    const { words, inside, files, once = '' } = input;
    return sendWord(tx, viewer, { ...its!, caseId, runId, ended: false }, { words, inside, files, once, from: 'desk' });
  });
}

export interface TaskWork {
  id: string;
  values: Record<string, unknown>;
  checked: string[];
}

/** Keeps what is filled in and checked off so far. */
export async function saveTask(viewer: Viewer, input: TaskWork): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { row } = open;
    const theirs = await ofAnother(tx, viewer, row);
    if (theirs) return theirs;
    const held = validateAnswers({ fields: row.fields }, input.values);
    const known = new Set(row.checklist.map((c) => c.id));
    await tx
      .update(task)
      .set({
        draft: { values: held.answers, checked: input.checked.filter((c) => known.has(c)) },
        ...(row.teamId && !row.takenBy && { takenBy: viewer.id }),
      })
      .where(eq(task.id, row.id));
    // What was attached so far is kept as long as the task is.
    const files = filesIn(Object.values(held.answers));
    await bindFiles(
      tx,
      files.map((id) => ({ id, caseId: row.caseId })),
      viewer.id,
    );
    return { ok: true };
  });
}

/** Corrects what was asked, in the fields that the task opens; what follows reads it as it is then. */
export async function correctRequest(viewer: Viewer, input: { id: string; values: Record<string, unknown> }): Promise<Result<{ changed: number }>> {
  return db().transaction(async (tx): Promise<Result<{ changed: number }>> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { row } = open;
    const theirs = await ofAnother(tx, viewer, row);
    if (theirs) return theirs;
    const corrected = await correctionsOf(tx, viewer.id, row, input.values);
    if (!corrected.ok) return corrected;
    const { answers, lookedUp } = corrected;
    const changed = Object.keys(answers).length;
    if (changed === 0) return { ok: true, changed };
    await deliver(tx, row.runId, { type: 'corrected', key: row.key, person: viewer.id, corrections: answers, ...(lookedUp && { lookedUp }) });
    await record(tx, { actor: viewer.id, action: 'correct', object: 'task', objectId: row.id, detail: { fields: Object.keys(answers) } });
    return { ok: true, changed };
  });
}

/** Finishes a task: every line is checked off, every wanted field filled in. The plan goes on by itself. */
export async function finishTask(viewer: Viewer, input: TaskWork): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const open = await openTask(tx, viewer, input.id);
    if (!open.ok) return open;
    const { row } = open;
    const theirs = await ofAnother(tx, viewer, row);
    if (theirs) return theirs;
    const exists = await existing(tx, Object.values(input.values));
    const held = validateAnswers({ fields: row.fields }, input.values, exists.for(viewer.id, row.caseId));
    const unchecked = row.checklist.filter((c) => !input.checked.includes(c.id));
    const problems = [...(held.ok ? [] : held.problems), ...unchecked.map((c) => ({ field: c.id, sentence: `“${c.words}” is not checked off.` }))];
    if (problems.length || !held.ok)
      return refuse(
        'invalid',
        problems.length === 1 ? problems[0]!.sentence : `${problems.length} things are missing before this is finished.`,
        problems,
      );
    const { ignored } = await deliver(tx, row.runId, { type: 'taskDone', key: row.key, person: viewer.id, values: held.answers });
    await record(tx, {
      actor: viewer.id,
      action: ignored ? 'finish-ignored' : 'finish',
      object: 'task',
      objectId: row.id,
      ...(ignored && { detail: { ignored } }),
    });
    return ignored ? refuse('ended', 'This is not needed any more. Nothing was changed.') : { ok: true };
  });
}
