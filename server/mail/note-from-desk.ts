import { aboutRequest, fixed, type Draft } from './draft.ts';

/** To the requester, from somebody who works on their request. */
export const noteFromDesk = (note: { key: string; to: string; from: string; words: string }): Draft => ({
  key: note.key,
  to: note.to,
  page: 'request',
  content: { subject: aboutRequest('A note about your request'), body: fixed(`${note.words}\n\n${note.from}`) },
});
