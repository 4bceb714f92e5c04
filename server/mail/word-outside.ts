import type { RichText } from '../../core/values/index.ts';
import { aboutRequest, fixed, type Draft, type Page } from './draft.ts';

const linesOf = (text: string): RichText => fixed(text).text;

/** More of what was said at once is read on its page. */
const mostInMail = 10;

/** What people said in a system about what it has under way for a request: to whoever asked, and to who deals with it here. */
export function wordsFromOutside(
  w: {
    key: string;
    item: string;
    system: string;
    said: { by: string; content: RichText }[];
    /** Whether what is written here is read there still. */ along: boolean;
  },
  to: { id: string; page: Page },
): Draft {
  const more = w.said.length - mostInMail;
  const body = [
    ...w.said.slice(0, mostInMail).flatMap(({ by, content }) => [...content, [{ text: by }]]),
    ...(more > 0 ? [[{ text: `${more} more stand on its page.` }]] : []),
    [{ text: w.along ? 'What you write on its page they read there:' : 'It stands on its page:' }],
  ];
  return {
    key: w.key,
    to: to.id,
    page: to.page,
    content: {
      subject: aboutRequest(to.page === 'request' ? 'About your request' : `${w.system} writes about ${w.item}`),
      body: { text: body, values: {} },
    },
  };
}

/** To whoever wrote something that a system did not take. */
export const wordNotTaken = (w: { key: string; to: string; page: Page | undefined; text: string; why: string }): Draft => ({
  key: w.key,
  to: w.to,
  ...(w.page && { page: w.page }),
  content: {
    subject: aboutRequest('What you wrote was not taken'),
    body: {
      text: [...linesOf(w.text), ...linesOf(`That did not come to those outside who have it under way. ${w.why} Here it stands where you wrote it.`)],
      values: {},
    },
  },
});
