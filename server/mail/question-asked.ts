import { aboutRequest, fixed, type Draft } from './draft.ts';

interface Question {
  key: string;
  to: string;
  name: string;
  words: string;
  /** Whether the mail itself can be answered. */
  byMail: boolean;
}

const body = (q: Question) => fixed(q.byMail ? `${q.words}\n\nAnswer this mail in a few words, or answer it on its page:` : q.words);

/** To the requester: a question, or their own form sent back (`back`). */
export const questionAsked = (q: Question, back: boolean): Draft => ({
  key: q.key,
  to: q.to,
  page: 'request',
  content: { subject: aboutRequest(`${back ? 'Sent back to you' : 'A question about your request'}: ${q.name}`), body: body(q) },
});

/** The question once more. */
export const questionReminder = (q: Question): Draft => ({
  key: q.key,
  to: q.to,
  page: 'request',
  content: { subject: fixed(`Reminder: ${q.name}`), body: body(q) },
});
