/** Where an open request stands, in a sentence. */
export function standingWords(s: { step: string; who: string[]; stuck: boolean }): string {
  if (s.stuck) return `${s.step}: held up by a failure that a person at the desk must clear.`;
  if (s.who.length === 0) return s.step;
  return `${s.step}: waits for ${s.who.length > 1 ? `${s.who.slice(0, -1).join(', ')} or ${s.who.at(-1)}` : s.who[0]}`;
}
