import { listWords } from '../../core/values/index.ts';

/** Where an open request stands, in a sentence. */
export function standingWords(s: { step: string; who: string[]; stuck: boolean }): string {
  if (s.stuck) return `${s.step}: held up by a failure that a person at the desk must clear.`;
  if (s.who.length === 0) return s.step;
  return `${s.step}: waits for ${listWords(s.who, 'or')}`;
}
