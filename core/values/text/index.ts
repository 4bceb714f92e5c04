import { text as kept } from '../../boundary/index.ts';
import { toldApart, type Stretches, type ValueRoom } from '../room.ts';

/** The longest text that a value may be, in characters. */
export const longestText = 20_000;

/** What texts of any kind have in common. */
export const textual: Pick<ValueRoom<string>, 'schema' | 'is' | 'order' | 'say' | 'typed' | 'stretches'> = {
  schema: kept(longestText),
  is: (v): v is string => typeof v === 'string',
  order: (a, b) => (a < b ? -1 : a > b ? 1 : 0),
  say: (v) => v,
  typed: (text) => text,
  stretches: (of) => textsApart(of),
};

/** Texts are only told apart: where somebody asks for their order, there is no end of stretches. */
function textsApart({ values, ordered }: Stretches): string[] | undefined {
  if (ordered.some((v) => v === null || typeof v === 'string')) return undefined;
  const stated = [...values, ...ordered].filter((v) => typeof v === 'string');
  return toldApart(stated, (a, b) => a === b, ['another text', 'yet another text']);
}

/** The room of this type; `room.ts` says what each member means. */
export const text: ValueRoom<string> = { ...textual, words: 'text', must: 'must be text', json: { type: 'string', maxLength: longestText } };
