import { z } from 'zod';
import { text } from '../boundary/index.ts';
import { longestText } from './text/index.ts';

/** Where a link leads: a page, or somebody to write to. Nothing that runs. */
export const Link = z
  .string()
  .max(2000)
  .regex(/^(https?:\/\/|mailto:)[^\s"<>]+$/, 'A link begins with https://, http:// or mailto: and has no blanks.');

/** How a run of words looks. */
export const marks = { bold: z.literal(true).optional(), italic: z.literal(true).optional(), link: Link.optional() };
/** A run of fixed words that looks alike. */
export const FixedPiece = z.object({ text: text(longestText), ...marks });
export type FixedPiece = z.infer<typeof FixedPiece>;
const line = z.array(FixedPiece).max(200);
/** Formatted text of fixed words: paragraphs, each its pieces, and lists. */
export const FixedText = z.array(z.union([line, z.object({ list: z.enum(['points', 'numbers']), items: z.array(line).min(1).max(100) })])).max(200);
export type FixedText = z.infer<typeof FixedText>;

/** The plain words of a text: a line a paragraph or list item; a link's address follows its words. */
export function wordsOf(text: FixedText): string {
  const words = (pieces: FixedPiece[]) =>
    pieces
      .map((p, i) => {
        const ends = p.link && pieces[i + 1]?.link !== p.link;
        return ends && p.text !== p.link ? `${p.text} (${p.link?.replace(/^mailto:/, '')})` : p.text;
      })
      .join('');
  return text
    .map((b) => (Array.isArray(b) ? words(b) : b.items.map((p, i) => `${b.list === 'numbers' ? `${i + 1}.` : '-'} ${words(p)}`).join('\n')))
    .join('\n');
}
