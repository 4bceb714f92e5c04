import { randomUUID } from 'node:crypto';
import { and, eq, isNull } from 'drizzle-orm';
import { isPerson, plainText } from '../../core/values/index.ts';
import { initialAnswers } from '../../core/forms/index.ts';
import type { Tx } from '../db/database.ts';
import { question, task } from '../db/schema/index.ts';
import type { Of, RunRow } from './effects.ts';
import { fixed, type Draft } from './messages.ts';
import { namesFor, optionsOf, sayNow, valueWords } from './words.ts';

/** Opens tasks. A person is told; a team finds them in its queue. */
export async function openTasks(tx: Tx, run: RunRow, opened: Of<'openTask'>[], at: Date): Promise<Draft[]> {
  if (opened.length === 0) return [];
  const names = await namesFor(
    tx,
    opened.flatMap((e) => [e.row, ...Object.values(e.instructions.values)]),
  );
  const rows = opened.map((e) => {
    const personId = 'person' in e.assignee ? e.assignee.person : null;
    // One a row: each says which row it is for, unless that is who does it.
    const row = isPerson(e.row) && e.row.person === personId ? '' : valueWords(e.row, names, optionsOf(run.definition, 'row.value'));
    return {
      id: randomUUID(),
      runId: run.id,
      key: e.key,
      name: row ? `${e.name}: ${row}` : e.name,
      teamId: 'team' in e.assignee ? e.assignee.team : null,
      personId,
      instructions: sayNow(e.instructions, run, names),
      checklist: e.checklist,
      fields: e.fields,
      draft: { values: initialAnswers({ fields: e.fields }), checked: [] },
      dueAt: e.dueAt ? new Date(e.dueAt) : null,
      openedAt: at,
    };
  });
  await tx.insert(task).values(rows);
  return rows.flatMap(({ id, key, name, personId, instructions }): Draft[] => {
    if (!personId) return [];
    const subject = { text: [[{ text: `Task for you: ${name}, ` }, { ref: 'request.number' }]], values: {} };
    return [{ key, to: personId, page: `task:${id}`, content: { subject, body: { text: instructions, values: {} } } }];
  });
}

/** Withdrawn work is closed as no longer needed, and whoever had it is told. */
export async function closeTasks(tx: Tx, runId: string, closed: Of<'closeTask'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of closed) {
    const [row] = await tx
      .update(task)
      .set({ closedAt: at, result: e.result, doneBy: e.by ?? null, ...(e.values && { draft: { values: e.values, checked: [] } }) })
      .where(and(eq(task.runId, runId), eq(task.key, e.key), isNull(task.closedAt)))
      .returning({ name: task.name, personId: task.personId, takenBy: task.takenBy, checklist: task.checklist });
    const told = row?.takenBy ?? row?.personId;
    if (!row || !told || e.result === 'done') continue;
    const subject = { text: [[{ text: `No longer needed: ${row.name}, ` }, { ref: 'request.number' }]], values: {} };
    drafts.push({
      key: e.key,
      to: told,
      content: { subject, body: fixed('The request was withdrawn, or went on without this. You need not do it any more.') },
    });
  }
  return drafts;
}

export async function openQuestions(tx: Tx, run: RunRow, opened: Of<'openQuestion'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of opened) {
    const words = plainText(sayNow(e.question, run, await namesFor(tx, Object.values(e.question.values))));
    await tx.insert(question).values({ runId: run.id, key: e.key, toId: e.to, name: e.name, words, fields: e.fields ?? null, openedAt: at });
    const back = e.fields === undefined;
    const subject = {
      text: [[{ text: `${back ? 'Sent back to you' : 'A question about your request'}: ${e.name}, ` }, { ref: 'request.number' }]],
      values: {},
    };
    drafts.push({ key: e.key, to: e.to, page: 'request', content: { subject, body: fixed(words) } });
  }
  return drafts;
}

export async function closeQuestions(tx: Tx, runId: string, closed: Of<'closeQuestion'>[], at: Date): Promise<void> {
  for (const e of closed) {
    await tx
      .update(question)
      .set({ closedAt: at, result: e.result, values: e.values ?? null })
      .where(and(eq(question.runId, runId), eq(question.key, e.key), isNull(question.closedAt)));
  }
}
