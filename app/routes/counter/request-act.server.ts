import type { FieldProblem } from '../../../core/forms/index.ts';
import type { Viewer } from '../../../server/auth/viewer.ts';
import { answersRefused } from '../../../server/refusal.ts';
import { answerQuestion, withdrawRequest } from '../../../server/requests/commands.ts';
import { myRequest } from '../../../server/requests/queries.ts';
import { writeOnRequest } from '../../../server/conversation/request.ts';
import { isId, refused, type Posted } from '../session.server';
import { attachedAnswers, wordFilesIn } from './answers.server';

/** What whoever asked does on the page of their request: answers a question, writes about it, or withdraws it. */
export async function actOnRequest(viewer: Viewer, number: number, request: Request) {
  const asked = async (data: Posted) => {
    const id = data.get('question');
    return id ? (await myRequest(viewer, number))?.questions.find((q) => q.id === id) : undefined;
  };
  const { data: form, answers, names, wrong } = await attachedAnswers(viewer, request, async (data) => (await asked(data))?.form ?? { fields: [] });
  const id = form.get('question');
  if (form.get('act') === 'write') return write(viewer, number, form, wrong);
  if (!id) {
    if (form.get('act') !== 'withdraw') throw new Response('Say what is to be done with this request. Nothing was changed.', { status: 400 });
    const result = await withdrawRequest(viewer, { number });
    return result.ok ? null : refused(result, { question: '', answers: {}, names: {}, words: undefined });
  }
  if (wrong.length > 0) return refused(answersRefused(wrong), { question: id, answers, names, words: undefined });
  const result = isId(id) ? await answerQuestion(viewer, { id, values: answers }) : undefined;
  return !result || result.ok ? null : refused(result, { question: id, answers, names, words: undefined });
}

async function write(viewer: Viewer, number: number, form: Posted, wrong: FieldProblem[]) {
  const files = await wordFilesIn(viewer, form);
  const kept = { question: '', answers: {}, names: {}, words: form.get('words'), files };
  if (wrong.length > 0) return refused(answersRefused(wrong), kept);
  const word = { number, words: kept.words, files: files.map((f) => f.id), once: form.get('once'), asRequester: true };
  const result = await writeOnRequest(viewer, word);
  return result.ok ? { sent: word.once } : refused(result, kept);
}
