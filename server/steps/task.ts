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
import { namesFor } from '../people/names.ts';
import { offeringOf, sayNow, valueWords } from '../words.ts';

/** What a task needs done: its row, and who is told of it. */
export const tasks: Writer = async (tx, batches, at) => [
  ...(await openTasks(tx, only(batches, 'openTask'), only(batches, 'taskDue'), at)),
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
      instructions: sayNow(e.instructions, e.run, names),
      checklist: e.checklist,
      fields: e.fields,
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
    if (personId) return [{ run, ...taskForYou({ ...row, personId }) }];
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
