import anyAscii from 'any-ascii';
import { piecesOf, isReference, type RichText } from '../values/index.ts';
import type { Letter } from './letter.ts';

/** A face of the press: under which name it is known there, and whether it has a sign (a Unicode code point). */
export interface Face {
  name: string;
  has: (codePoint: number) => boolean;
}
/** The faces of running words and of titles, each in the order in which they are tried. */
export interface Faces {
  words: readonly Face[];
  titles: readonly Face[];
}

/** Signs that look alike and have one face. */
export interface Run {
  text: string;
  font: string;
  bold?: true;
  italics?: true;
  link?: string;
}
/** What stands on a page, from above to below. */
export type Block =
  | { block: 'title'; runs: Run[] }
  | { block: 'paragraph'; runs: Run[] }
  | { block: 'list'; ordered: boolean; items: Run[][] }
  | { block: 'table'; heads: Run[][]; shares?: number[]; rows: Block[][][] };

/** A letter laid out for the press. */
export interface Sheet {
  /** As plain words, for what the reader's program shows of the file. */
  title: string;
  head: Run[] | undefined;
  blocks: Block[];
  numbered: boolean;
}

const segments = new Intl.Segmenter('en', { granularity: 'grapheme' });

/**
 * Words in the first face that has them, sign by sign. A sign that no face has is written in Latin letters as it sounds, and where it has
 * no sound as a question mark: nothing is left out silently.
 */
export function inFaces(words: string, faces: readonly Face[]): { text: string; font: string }[] {
  const runs: { text: string; font: string }[] = [];
  const put = (text: string, font: string) => {
    const last = runs.at(-1);
    if (last?.font === font) last.text += text;
    else runs.push({ text, font });
  };
  const faceOf = (sign: string) => faces.find((f) => [...sign].every((c) => f.has(c.codePointAt(0)!)));
  for (const { segment } of segments.segment(words.normalize('NFC'))) {
    // Spaces and line ends stay in the face of what is before them.
    if (/^\s+$/.test(segment)) put(segment.replace(/[^\n]/g, ' ').replace(/\n+/g, '\n'), runs.at(-1)?.font ?? faces[0]!.name);
    else {
      const face = faceOf(segment);
      if (face) put(segment, face.name);
      else put(spelled(segment, faces), faces[0]!.name);
    }
  }
  return runs;
}

/** As it sounds, in signs that the first face has. */
const spelled = (sign: string, [first]: readonly Face[]): string => {
  const sound = anyAscii(sign).trim();
  return sound !== '' && [...sound].every((c) => first!.has(c.codePointAt(0)!)) ? sound : '?';
};

/** Lays a said letter out in the faces there are. */
export function layOut(letter: Letter, faces: Faces): Sheet {
  const runsOf = (pieces: RichText, of: readonly Face[]): Run[] =>
    piecesOf(pieces).flatMap((p) =>
      isReference(p)
        ? []
        : inFaces(p.text, of).map((r) => ({
            ...r,
            ...(p.bold && { bold: true as const }),
            ...(p.italic && { italics: true as const }),
            ...(p.link && { link: p.link }),
          })),
    );
  const blocksOf = (text: RichText): Block[] =>
    text.map((b) =>
      Array.isArray(b)
        ? { block: 'paragraph', runs: runsOf([b], faces.words) }
        : { block: 'list', ordered: b.list === 'numbers', items: b.items.map((item) => runsOf([item], faces.words)) },
    );
  const plain = (text: RichText): string =>
    piecesOf(text)
      .map((p) => (isReference(p) ? '' : p.text))
      .join('')
      .trim();
  return {
    title: plain(letter.title),
    head: letter.head && runsOf(letter.head, faces.words),
    blocks: [
      { block: 'title', runs: runsOf(letter.title, faces.titles) },
      ...letter.body.flatMap(({ words, table }): Block[] => [
        ...blocksOf(words),
        ...(table && (table.rows.length > 0 || table.heads.length > 0)
          ? [
              {
                block: 'table' as const,
                heads: table.heads.some(Boolean) ? table.heads.map((h) => runsOf([[{ text: h, bold: true }]], faces.words)) : [],
                ...(table.shares && { shares: table.shares }),
                rows: table.rows.map((row) => row.map(blocksOf)),
              },
            ]
          : []),
      ]),
    ],
    numbered: letter.numbered,
  };
}
