import { z } from 'zod';
import { text } from '../boundary/index.ts';
import { longestText } from './text/index.ts';
import { isReference, Reference } from './reference.ts';

/** Where a link leads: a page, or somebody to write to. Nothing that runs. */
export const Link = z
  .string()
  .max(2000)
  .regex(/^(https?:\/\/|mailto:)[^\s"<>]+$/, 'A link begins with https://, http:// or mailto: and has no blanks.');

const marks = { bold: z.literal(true).optional(), italic: z.literal(true).optional(), link: Link.optional() };
/** A run of words, or a picked value, that looks alike. */
export const TextPiece = z.union([z.object({ text: text(longestText), ...marks }), Reference.extend(marks)]);
export type TextPiece = z.infer<typeof TextPiece>;
/** A list of points or numbers in a formatted text. */
export const TextList = z.object({ list: z.enum(['points', 'numbers']), items: z.array(z.array(TextPiece).max(200)).min(1).max(100) });
export type TextList = z.infer<typeof TextList>;
/**
 * Formatted text with picked values in it: paragraphs (each its pieces) and lists. Kept as this structure wherever it
 * is stored; HTML is made of it where it goes out, and never read.
 */
export const RichText = z.array(z.union([z.array(TextPiece).max(200), TextList])).max(200);
export type RichText = z.infer<typeof RichText>;

/** Whether a block of a text is a list. */
export const isList = (block: RichText[number]): block is TextList => !Array.isArray(block);

/** All pieces of a text in reading order. */
export const piecesOf = (text: RichText): TextPiece[] => text.flatMap((b) => (isList(b) ? b.items.flat() : b));

/** One paragraph of fixed words. */
export const sentence = (text: string): RichText => [[{ text }]];

/** Whether anything in a text would be lost as plain words. */
export const isFormatted = (text: RichText): boolean => text.some(isList) || piecesOf(text).some((p) => p.bold || p.italic || p.link);

/** Where a mail or chat program may begin a new line: the line breaks of Unicode (UAX 14, class BK, CR, LF and NL) that a text may hold. */
const lineBreak = /\r\n|[\r\n\u2028\u2029]/;

/**
 * What somebody wrote, to stand among words of ours: on one line as it is; in several lines as a quotation, each line
 * behind "> " (the quoting of RFC 3676, section 4.5), so that none of them can pass for a line or a link of ours.
 */
export function quoted(words: string): string {
  const lines = words.split(lineBreak);
  return lines.length === 1 ? words : `\n${lines.map((l) => `> ${l}`).join('\n')}\n`;
}

/**
 * The same text with words for its values; `say` gives them, and words in several lines become a quotation on lines of
 * its own. What is left has no references.
 */
export function sayText(text: RichText, say: (ref: string) => string): RichText {
  const one = (p: TextPiece, i: number, all: TextPiece[]): TextPiece => {
    if (!isReference(p)) return p;
    const { ref, ...marked } = p;
    let said = quoted(say(ref));
    if (i === 0) said = said.replace(/^\n/, '');
    if (i === all.length - 1) said = said.replace(/\n$/, '');
    return { text: said, ...marked };
  };
  return text.map((b) => (isList(b) ? { ...b, items: b.items.map((i) => i.map(one)) } : b.map(one)));
}

/** The plain words of a text: a line a paragraph or list item; a link's address follows its words. */
export function plainText(text: RichText, say: (ref: string) => string = () => ''): string {
  const words = (pieces: TextPiece[]) =>
    pieces
      .map((p, i) => {
        const said = isReference(p) ? say(p.ref) : p.text;
        const ends = p.link && pieces[i + 1]?.link !== p.link;
        return ends && said !== p.link ? `${said} (${p.link?.replace(/^mailto:/, '')})` : said;
      })
      .join('');
  return text
    .map((b) => (isList(b) ? b.items.map((p, i) => `${b.list === 'numbers' ? `${i + 1}.` : '-'} ${words(p)}`).join('\n') : words(b)))
    .join('\n');
}

const escaped = (s: string) => s.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** A text without references as HTML of p, br, ul, ol, li, strong, em and a only, everything else escaped. */
export function htmlText(text: RichText): string {
  const html = (pieces: TextPiece[]) =>
    pieces
      .map((p) => {
        let said = escaped(isReference(p) ? '' : p.text).replace(/\n/g, '<br>');
        if (p.italic) said = `<em>${said}</em>`;
        if (p.bold) said = `<strong>${said}</strong>`;
        return p.link && Link.safeParse(p.link).success ? `<a href="${escaped(p.link)}">${said}</a>` : said;
      })
      .join('');
  return text
    .map((b) => {
      if (!isList(b)) return `<p>${html(b)}</p>`;
      const tag = b.list === 'numbers' ? 'ol' : 'ul';
      return `<${tag}>${b.items.map((i) => `<li>${html(i)}</li>`).join('')}</${tag}>`;
    })
    .join('\n');
}
