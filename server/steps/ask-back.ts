import { and, eq, inArray, isNull } from 'drizzle-orm';
import { plainText } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { question } from '../db/schema/index.ts';
import type { Draft } from '../mail/draft.ts';
import { questionAsked, questionReminder } from '../mail/question-asked.ts';
import { namesFor } from '../people/names.ts';
import { only, type Of, type RunRow, type Writer } from '../runtime/batch.ts';
import { sayNow } from '../words.ts';

/** What a question to the requester needs done: its row, and its message. */
export const questions: Writer = async (tx, run, effects, at) => {
  const drafts = await openQuestions(tx, run, only(effects, 'openQuestion'), at);
  await closeQuestions(tx, run.id, only(effects, 'closeQuestion'), at);
  return [...drafts, ...(await remindRequester(tx, run.id, only(effects, 'remind')))];
};

async function openQuestions(tx: Tx, run: RunRow, opened: Of<'openQuestion'>[], at: Date): Promise<Draft[]> {
  const drafts: Draft[] = [];
  for (const e of opened) {
    const words = plainText(sayNow(e.question, run, await namesFor(tx, Object.values(e.question.values))));
    await tx.insert(question).values({ runId: run.id, key: e.key, toId: e.to, name: e.name, words, fields: e.fields ?? null, openedAt: at });
    drafts.push(questionAsked({ key: e.key, to: e.to, name: e.name, words }, e.fields === undefined));
  }
  return drafts;
}

async function closeQuestions(tx: Tx, runId: string, closed: Of<'closeQuestion'>[], at: Date): Promise<void> {
  for (const e of closed) {
    await tx
      .update(question)
      .set({ closedAt: at, result: e.result, values: e.values ?? null })
      .where(and(eq(question.runId, runId), eq(question.key, e.key), isNull(question.closedAt)));
  }
}

/** The question that is still open, once more. */
async function remindRequester(tx: Tx, runId: string, reminders: Of<'remind'>[]): Promise<Draft[]> {
  if (reminders.length === 0) return [];
  const keys = reminders.map((e) => e.key);
  const open = await tx
    .select({ key: question.key, to: question.toId, words: question.words, name: question.name })
    .from(question)
    .where(and(eq(question.runId, runId), inArray(question.key, keys), isNull(question.closedAt)));
  return open.map(questionReminder);
}
