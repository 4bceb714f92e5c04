import { z } from 'zod';
import { FixedPiece, Link, marks, wordsOf } from './fixed-text.ts';
import { isReference, Reference } from './reference.ts';

/** A run of words, or a picked value, that looks alike. */
export const TextPiece = z.union([FixedPiece, Reference.extend(marks)]);
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
 * its own. A value that is a formatted text itself stands as it is: within the paragraph where it is one, else as paragraphs and
 * lists of its own. What is left has no references.
 */
export function sayText(text: RichText, say: (ref: string) => string | RichText): RichText {
  const one = (p: TextPiece, i: number, all: TextPiece[]): RichText => {
    if (!isReference(p)) return [[p]];
    const { ref, ...marked } = p;
    const value = say(ref);
    if (typeof value !== 'string') return value;
    let said = quoted(value);
    if (i === 0) said = said.replace(/^\n/, '');
    if (i === all.length - 1) said = said.replace(/\n$/, '');
    return [[{ text: said, ...marked }]];
  };
  return text.flatMap((b) => (isList(b) ? [{ ...b, items: b.items.map((i) => inOne(i.map(one))) }] : inSeveral(b.map(one))));
}

/** What stands one after another as one paragraph: lines where there were several. */
const inOne = (parts: RichText[]): TextPiece[] =>
  parts.flatMap((blocks) => blocks.flatMap((b) => (isList(b) ? b.items : [b])).flatMap((line, i) => (i > 0 ? [{ text: '\n' }, ...line] : line)));

/** The same as paragraphs: what has several, or lists, stands between what comes before it and after it. */
function inSeveral(parts: RichText[]): RichText {
  const done: RichText = [];
  let open: TextPiece[] = [];
  for (const blocks of parts) {
    const [only] = blocks;
    if (blocks.length <= 1 && (only === undefined || !isList(only))) open.push(...((only as TextPiece[] | undefined) ?? []));
    else {
      if (open.length > 0) done.push(open);
      done.push(...blocks);
      open = [];
    }
  }
  return open.length > 0 || done.length === 0 ? [...done, open] : done;
}

/** The plain words of a text, as `wordsOf` gives them; `say` gives those of its values. */
export function plainText(text: RichText, say: (ref: string) => string = () => ''): string {
  const fixed = (pieces: TextPiece[]) =>
    pieces.map((p) => (isReference(p) ? { text: say(p.ref), ...(p.link !== undefined && { link: p.link }) } : p));
  return wordsOf(text.map((b) => (isList(b) ? { ...b, items: b.items.map(fixed) } : fixed(b))));
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
