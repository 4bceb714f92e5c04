import { z } from 'zod';
import { sameJson } from '../../boundary/index.ts';
import { FixedText, wordsOf } from '../fixed-text.ts';
import type { Plain, ValueRoom } from '../room.ts';
import { markdownOf, textFromMarkdown, tidied } from './markdown.ts';

/** The longest formatted text, in characters of its words. */
export const longestFormatted = 4000;

/** Text with emphasis, links and lists, without picked values. Empty it is no value. */
export const Formatted = z.object({
  formatted: FixedText.refine((t) => {
    const words = wordsOf(t);
    return words.trim() !== '' && words.length <= longestFormatted;
  }, `A formatted text has words, and at most ${longestFormatted} characters.`),
});
export type Formatted = z.infer<typeof Formatted>;

/** Whether a value is formatted text. */
export const isFormattedText = (v: unknown): v is Formatted => typeof v === 'object' && v !== null && 'formatted' in v;

/** A text as a value of this type, tidied; null where no word is in it. */
export const formattedFrom = (text: unknown): Formatted | null => {
  const fixed = FixedText.safeParse(text);
  const read = Formatted.safeParse({ formatted: fixed.success ? tidied(fixed.data) : [] });
  return read.success ? read.data : null;
};

/** The text of a value in plain letters, as `formattedText.typed` reads it. */
export const formattedSource = (v: Formatted): string => markdownOf(v.formatted);

const typed = (text: string): Formatted | undefined => {
  const read = Formatted.safeParse({ formatted: textFromMarkdown(text) });
  return read.success ? read.data : undefined;
};

/** The room of this type; `room.ts` says what each member means. */
export const formattedText: ValueRoom<Formatted> = {
  words: 'formatted text',
  must: `must be text with at most ${longestFormatted} characters`,
  schema: Formatted,
  is: isFormattedText,
  same: (a, b) => sameJson(a, b),
  say: (v) => wordsOf(v.formatted),
  typed,
  // In plain letters it comes back as it was; an expression reads its words.
  plain: formattedSource,
  expression: (v) => wordsOf(v.formatted),
  fromPlain: (plain: Plain) => (typeof plain === 'string' ? typed(plain) : undefined),
  json: { type: 'string' },
};
