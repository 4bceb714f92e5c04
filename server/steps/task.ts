import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import { isEntry, isPerson, type Value } from '../../core/values/index.ts';
import { begunAnswers, nothingKnown } from '../../core/forms/index.ts';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { person, task, team, teamMember } from '../db/schema/index.ts';
import { instantOf, only, type About, type Of, type Writer } from '../runtime/batch.ts';
import { taskNotNeeded } from '../mail/no-longer-needed.ts';
import { taskForTeam, taskForYou } from '../mail/task-for-you.ts';
import { lateTaskForYou, lateTaskGone, lateTaskTold, taskIsLate } from '../mail/task-late.ts';
import { cannotDo } from '../people/existing.ts';
import { namesFor } from '../people/names.ts';
import { offeringOf, sayNow, valueWords } from '../words.ts';

/** What a task needs done: its row, and who is told of it. */
export const tasks: Writer = async (tx, batches, at) => [
  ...(await openTasks(tx, only(batches, 'openTask'), only(batches, 'taskDue'), at)),
  ...(await lateTasks(tx, only(batches, 'taskLate'))),
  ...(await raiseTasks(tx, only(batches, 'raiseTask'))),
  ...(await closeTasks(tx, only(batches, 'closeTask'), at)),
];

/** What tells one row from another: of a line its values, but not what is only yes or no. */
const calledBy = (row: Value | undefined): Value | undefined =>
  isEntry(row) ? { entry: Object.fromEntries(Object.entries(row.entry).filter(([, cell]) => typeof cell !== 'boolean')) } : row;

/** Opens tasks. A person is told; a team finds them in its queue. */
async function openTasks(tx: Tx, opened: Of<'openTask'>[], due: Of<'taskDue'>[], at: Date): Promise<About[]> {
  if (opened.length === 0) return [];
  const names = await namesFor(
    tx,
    opened.flatMap((e) => [e.row, ...Object.values(e.instructions.values)]),
  );
  const rows = opened.map((e) => {
    const personId = 'person' in e.assignee ? e.assignee.person : null;
    // One a row: each says which row it is for, unless that is who does it.
    const row = isPerson(e.row) && e.row.person === personId ? '' : valueWords(calledBy(e.row), names, offeringOf(e.run.definition, 'row.value'));
    return {
      id: randomUUID(),
      runId: e.run.id,
      key: e.key,
      name: row ? `${e.name}: ${row}` : e.name,
      teamId: 'team' in e.assignee ? e.assignee.team : null,
      personId,
      takenBy: e.holder ?? null,
      instructions: sayNow(e.instructions, e.run, names),
      checklist: e.checklist,
      fields: e.fields,
      corrects: e.corrects ?? [],
      draft: { values: begunAnswers({ fields: e.fields }, nothingKnown), checked: [] },
      dueAt: instantOf(due, e),
      openedAt: at,
    };
  });
  await insertAll(tx, task, rows);
  const members = await membersOf(
    tx,
    rows.flatMap((r, i) => (r.teamId && opened[i]!.tellTeam ? [r.teamId] : [])),
  );
  return rows.flatMap(({ personId, ...row }, i) => {
    const { run } = opened[i]!;
    const theirs = personId ?? row.takenBy;
    if (theirs) return [{ run, ...taskForYou({ ...row, personId: theirs }) }];
    const told = opened[i]!.tellTeam ? members.filter((m) => m.teamId === row.teamId) : [];
    return told.map((m) => ({ run, ...taskForTeam({ ...row, team: m.team }, m.personId) }));
  });
}

/** Who works here in these teams. */
async function membersOf(tx: Tx, teams: string[]): Promise<{ teamId: string; team: string; personId: string }[]> {
  if (teams.length === 0) return [];
  return tx
    .select({ teamId: team.id, team: team.name, personId: person.id })
    .from(teamMember)
    .innerJoin(team, eq(team.id, teamMember.teamId))
    .innerJoin(person, and(eq(person.id, teamMember.personId), eq(person.active, true)))
    .where(inArray(team.id, [...new Set(teams)]))
    .orderBy(person.name);
}

/** The row of an open task of a run that is locked; undefined where it is closed, or not due. */
async function openTask(tx: Tx, of: { run: { id: string }; key: string }) {
  const [row] = await tx
    .select()
    .from(task)
    .where(and(eq(task.runId, of.run.id), eq(task.key, of.key), isNull(task.closedAt)));
  return row?.dueAt ? { ...row, dueAt: row.dueAt } : undefined;
}
/** Who has a task now: one person, or while nobody has taken it everyone of its team. */
const holders = async (tx: Tx, row: { takenBy: string | null; personId: string | null; teamId: string | null }): Promise<string[]> => {
  const one = row.takenBy ?? row.personId;
  if (one) return [one];
  return (await membersOf(tx, row.teamId ? [row.teamId] : [])).map((m) => m.personId);
};

/** Whoever has a task that is late is told of it. */
async function lateTasks(tx: Tx, late: Of<'taskLate'>[]): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of late) {
    const row = await openTask(tx, e);
    if (row) drafts.push(...(await holders(tx, row)).map((to) => ({ run: e.run, ...taskIsLate(row, to) })));
  }
  return drafts;
}

/** A task that has been late for long: others are told, or have it from now on, with what is filled in so far. */
async function raiseTasks(tx: Tx, raised: Of<'raiseTask'>[]): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of raised) {
    const row = await openTask(tx, e);
    if (!row) continue;
    const before = await holders(tx, row);
    const to = 'person' in e.to ? [e.to.person] : (await membersOf(tx, [e.to.team])).map((m) => m.personId);
    if (e.how === 'tell') {
      const one = row.takenBy ?? row.personId;
      const has: Value = one ? { person: one } : row.teamId ? { team: row.teamId } : null;
      drafts.push(...to.map((who) => ({ run: e.run, ...lateTaskTold(row, who, has) })));
      continue;
    }
    const [personId, teamId] = 'person' in e.to ? [e.to.person, null] : [null, e.to.team];
    if (personId === row.personId && teamId === row.teamId) continue;
    // Who has left, and a team that is gone, cannot have it: it stays where it is, and whoever has it hears that it is late.
    if ((await cannotDo(tx, personId ?? undefined, teamId ?? undefined)) !== undefined) {
      drafts.push(...before.map((who) => ({ run: e.run, ...taskIsLate(row, who) })));
      continue;
    }
    await tx.update(task).set({ personId, teamId, takenBy: null }).where(eq(task.id, row.id));
    drafts.push(
      ...to.map((who) => ({ run: e.run, ...lateTaskForYou(row, who) })),
      ...before.filter((who) => !to.includes(who)).map((who) => ({ run: e.run, ...lateTaskGone(row, who, e.to) })),
    );
  }
  return drafts;
}

/** Withdrawn work is closed as no longer needed, and whoever had it is told. */
async function closeTasks(tx: Tx, closed: Of<'closeTask'>[], at: Date): Promise<About[]> {
  const drafts: About[] = [];
  for (const e of closed) {
    const [row] = await tx
      .update(task)
      .set({ closedAt: at, result: e.result, doneBy: e.by ?? null, ...(e.values && { draft: { values: e.values, checked: [] } }) })
      .where(and(eq(task.runId, e.run.id), eq(task.key, e.key), isNull(task.closedAt)))
      .returning({ name: task.name, personId: task.personId, takenBy: task.takenBy, checklist: task.checklist });
    const told = row?.takenBy ?? row?.personId;
    if (!row || !told || e.result === 'done') continue;
    drafts.push({ run: e.run, ...taskNotNeeded(told, row.name, e.key) });
  }
  return drafts;
}
