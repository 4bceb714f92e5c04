import { idAt, pathOf, saidIn, sayingBody, type Exchange } from '../../../core/systems/index.ts';
import type { ExchangesWords } from '../action.ts';
import { detailOf } from '../client.ts';
import { PermanentError, TransientError } from '../errors.ts';
import { sendWeb, type Registered } from './send.ts';
import { wholeOf } from './listing.ts';

/** More words than this about one thing are not read. */
const mostWords = 5000;

/** How a registered system takes part in what is said about something that it has under way. */
export function wordsOf(row: Registered, exchange: Exchange): ExchangesWords {
  const { name } = row.definition;
  const { read, say } = exchange;
  return {
    read: (job) => wholeOf(row, pathOf(read.path, job), mostWords, (answer) => saidIn(exchange, answer)),
    asRead: (words) => (say ? sayingBody(say, words)[say.text]! : words.text),
    ...(say && {
      say: async (job, words, key) => {
        const answer = await sendWeb(row, {
          method: 'POST',
          path: pathOf(say.path, job),
          body: sayingBody(say, words),
          headers: { 'idempotency-key': `"${key}"` },
        });
        // That we may not say anything at present says nothing of these words.
        if (answer.status === 401 || answer.status === 403)
          throw new TransientError(`${name} did not take it (${answer.status}${detailOf(answer.body)}).`);
        if (answer.status >= 400) throw new PermanentError(`${name} refused it with ${answer.status}${detailOf(answer.body)}.`);
        const id = idAt(answer.body, say.id);
        // What it is called is read there then, and it is known by its words.
        if (id === undefined) throw new TransientError(`${name} took it, and said nothing at “${say.id}” by which it could be known again.`);
        return id;
      },
    }),
  };
}
