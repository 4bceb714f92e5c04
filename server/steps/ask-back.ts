import { and, eq, isNull } from 'drizzle-orm';
import { plainText } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { question } from '../db/schema/index.ts';
import { inWords } from '../../core/forms/index.ts';
import { answersByMail } from '../intake/ways.ts';
import { questionAsked, questionReminder } from '../mail/question-asked.ts';
import { namesFor } from '../people/names.ts';
import { only, type About, type Of, type Writer } from '../runtime/batch.ts';
import { sayNow } from '../words.ts';

/** What a question to the requester needs done: its row, and its message. */
export const questions: Writer = async (tx, batches, at) => {
  const drafts = await openQuestions(tx, only(batches, 'openQuestion'), at);
  await closeQuestions(tx, only(batches, 'closeQuestion'), at);
  return [...drafts, ...(await remindRequester(tx, only(batches, 'remind')))];
};

async function openQuestions(tx: Tx, opened: Of<'openQuestion'>[], at: Date): Promise<About[]> {
  const drafts: About[] = [];
  const answered = opened.length > 0 && (await answersByMail(tx));
  for (const { run, ...e } of opened) {
    const words = plainText(sayNow(e.question, run, await namesFor(tx, Object.values(e.question.values))));
    await tx.insert(question).values({ runId: run.id, key: e.key, toId: e.to, name: e.name, words, fields: e.fields ?? null, openedAt: at });
    drafts.push({
      run,
      ...questionAsked({ key: e.key, to: e.to, name: e.name, words, byMail: answered && inWords(e.fields) !== undefined }, e.fields === undefined),
    });
  }
  return drafts;
}

async function closeQuestions(tx: Tx, closed: Of<'closeQuestion'>[], at: Date): Promise<void> {
  for (const e of closed) {
    await tx
      .update(question)
      .set({ closedAt: at, result: e.result, values: e.values ?? null })
      .where(and(eq(question.runId, e.run.id), eq(question.key, e.key), isNull(question.closedAt)));
  }
}

/** The question that is still open, once more. */
async function remindRequester(tx: Tx, reminders: Of<'remind'>[]): Promise<About[]> {
  const drafts: About[] = [];
  const answered = reminders.length > 0 && (await answersByMail(tx));
  for (const { run, key } of reminders) {
    const open = await tx
      .select({ key: question.key, to: question.toId, words: question.words, name: question.name, fields: question.fields })
      .from(question)
      .where(and(eq(question.runId, run.id), eq(question.key, key), isNull(question.closedAt)));
    drafts.push(...open.map((q) => ({ run, ...questionReminder({ ...q, byMail: answered && inWords(q.fields) !== undefined }) })));
  }
  return drafts;
}
