import { aboutRequest, fixed, type Draft } from './draft.ts';

interface Question {
  key: string;
  to: string;
  name: string;
  words: string;
}

/** To the requester: a question, or their own form sent back (`back`). */
export const questionAsked = ({ key, to, name, words }: Question, back: boolean): Draft => ({
  key,
  to,
  page: 'request',
  content: { subject: aboutRequest(`${back ? 'Sent back to you' : 'A question about your request'}: ${name}`), body: fixed(words) },
});

/** The question once more. */
export const questionReminder = ({ key, to, name, words }: Question): Draft => ({
  key,
  to,
  page: 'request',
  content: { subject: fixed(`Reminder: ${name}`), body: fixed(words) },
});
