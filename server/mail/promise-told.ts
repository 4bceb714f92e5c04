import { minutesWords } from '../../core/calendar/index.ts';
import type { Standing } from '../../core/targets/index.ts';
import { aboutRequest, fixed, type Draft } from './draft.ts';

/** A promise of a request, as those who watch it need to know of it. */
export interface ToldPromise {
  item: string;
  /** The milestone's words; undefined: of the whole. */
  milestone: string | undefined;
  standing: Standing;
  /** Where the request stands, and with whom. */
  at: { step: string; who: readonly string[] } | undefined;
}

/** To one of the team that watches a promise: it is near, or broken. */
export function promiseTold(that: 'near' | 'late', { item, milestone, standing, at }: ToldPromise, key: string, to: string): Draft {
  const what = milestone === undefined ? item : `${item}, “${milestone}”`;
  const promised = minutesWords(standing.promised);
  const words =
    that === 'near'
      ? `${minutesWords(standing.left)} of the promised ${promised} are left.`
      : `It was promised within ${promised}, and has taken ${minutesWords(standing.used)}.`;
  const stands = at && `It stands at “${at.step}”${at.who.length > 0 ? `, with ${at.who.join(', ')}` : ''}.`;
  return {
    key,
    to,
    page: 'trace',
    content: { subject: aboutRequest(`${that === 'near' ? 'Soon due' : 'Late'}: ${what}`), body: fixed([words, stands].filter(Boolean).join('\n')) },
  };
}
