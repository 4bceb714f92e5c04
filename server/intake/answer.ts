import { and, eq, inArray, isNull } from 'drizzle-orm';
import { inWords } from '../../core/forms/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { message, question, run } from '../db/schema/index.ts';
import { sayAbout } from '../mail/write.ts';
import { answerQuestion } from '../requests/commands.ts';

/** Whether a question was answered by this very mail. */
export const answeredAs = async (cameAs: string, by: string): Promise<boolean> =>
  (await db().$count(question, and(eq(question.cameAs, cameAs), eq(question.toId, by)))) > 0;

/**
 * Takes words that came by mail as the answer to what somebody is asked of a request: to the question whose mail they answer, or, where they
 * answer no mail of ours, to the one that is open. Whoever cannot answer it so is told why, in its thread (`told`). Nothing: they are asked nothing there.
 */
export async function answerByMail(
  viewer: Viewer,
  caseId: string,
  mail: { answers: readonly string[]; words: string; cameAs: string },
): Promise<'answered' | 'told' | undefined> {
  const open = await db()
    .select({ id: question.id, key: question.key, name: question.name, fields: question.fields, runId: run.id })
    .from(question)
    .innerJoin(run, eq(run.id, question.runId))
    .where(and(eq(run.caseId, caseId), eq(question.toId, viewer.id), isNull(question.closedAt)))
    .orderBy(question.openedAt);
  const asked = await meant(open, mail.answers);
  if (!asked) return undefined;
  const say = (words: string) => sayAbout(asked.runId, { key: asked.key, to: viewer.id, subject: `Re: ${asked.name}`, words, page: 'request' });
  const field = inWords(asked.fields);
  if (!field) await say('This cannot be answered by mail, and what you wrote was not taken. Answer it on its page:');
  else {
    const result = await answerQuestion(viewer, { id: asked.id, values: { [field.id]: mail.words }, cameAs: mail.cameAs });
    if (result.ok) return 'answered';
    // The same mail by two ways at once is one answer.
    if (!(await answeredAs(mail.cameAs, viewer.id))) {
      const why = result.problems?.map((p) => p.sentence).join(' ') ?? result.sentence;
      await say(`What you wrote was not taken as the answer. ${why} Answer this mail once more, or answer it on its page:`);
    }
  }
  return 'told';
}

/** The open question whose mail was answered; where none of our mails was, the only one. A mail that answers another of ours answers none. */
async function meant<T extends { key: string; runId: string }>(open: T[], answers: readonly string[]): Promise<T | undefined> {
  if (open.length === 0) return undefined;
  const mails = answers.length
    ? await db()
        .select({ runId: message.runId, key: message.key, id: message.messageId })
        .from(message)
        .where(inArray(message.messageId, [...answers]))
    : [];
  const [nearest] = mails.toSorted((a, b) => answers.indexOf(a.id) - answers.indexOf(b.id));
  if (nearest) return open.find((q) => q.runId === nearest.runId && q.key === nearest.key);
  return open.length === 1 ? open[0] : undefined;
}
