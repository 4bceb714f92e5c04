import type { RichText } from '../../core/values/index.ts';
import { aboutRequest, type Draft, type Page } from './draft.ts';

/** A word about a request, as it goes out by mail. */
interface Word {
  key: string;
  by: string;
  content: RichText;
  /** What is said of files that stand with it. */
  files: string | undefined;
  /** Whether the mail itself can be answered. */
  byMail: boolean;
}

const bodyOf = (w: Word, how: string) => ({
  text: [...w.content, ...(w.files === undefined ? [] : [[{ text: w.files }]]), [{ text: w.by }], [{ text: how }]],
  values: {},
});

/** To the requester, from somebody who deals with their request. */
export const wordFromDesk = (w: Word, to: string): Draft => ({
  key: w.key,
  to,
  page: 'request',
  content: {
    subject: aboutRequest('About your request'),
    body: bodyOf(w, w.byMail ? 'Answer this mail, or write on its page:' : 'You can write back on its page:'),
  },
});

/** To somebody who deals with a request now, from its requester. */
export const wordFromRequester = (w: Word & { item: string }, to: { id: string; page: Page }): Draft => ({
  key: w.key,
  to: to.id,
  page: to.page,
  content: {
    subject: aboutRequest(`${w.by} writes about ${w.item}`),
    body: bodyOf(w, w.byMail ? `What you answer to this mail, ${w.by} reads. Everything else is done here:` : 'Here is where you deal with it:'),
  },
});
