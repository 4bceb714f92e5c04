import type { ListItem, Nodes, PhrasingContent, Root, RootContent } from 'mdast';
import { fromMarkdown } from 'mdast-util-from-markdown';
import { toMarkdown } from 'mdast-util-to-markdown';
import { sameJson } from '../../boundary/index.ts';
import { Link, type FixedPiece, type FixedText } from '../fixed-text.ts';

type Marks = Omit<FixedPiece, 'text'>;

const isList = (block: FixedText[number]): block is Exclude<FixedText[number], FixedPiece[]> => !Array.isArray(block);

/** An address that stands among words as it is. What ends a sentence is no part of it. */
const bareLink = /https?:\/\/[^\s<>"]*[^\s<>".,;:!?)\]']/g;

/** Formatted text as somebody writes it in plain letters (CommonMark 0.31): emphasis, links and lists; all else stays words. */
export function textFromMarkdown(source: string): FixedText {
  return tidied(blocksOf(fromMarkdown(source).children, source));
}

const sourceOf = (node: Nodes, source: string): string => source.slice(node.position?.start.offset ?? 0, node.position?.end.offset ?? 0);

function blocksOf(nodes: RootContent[], source: string): FixedText {
  return nodes.flatMap((node): FixedText => {
    if (node.type === 'paragraph') return [piecesIn(node.children, {}, source)];
    if (node.type === 'heading') return [piecesIn(node.children, { bold: true }, source)];
    if (node.type === 'list') return [{ list: node.ordered ? 'numbers' : 'points', items: node.children.flatMap((item) => itemsOf(item, source)) }];
    if (node.type === 'blockquote') return blocksOf(node.children, source);
    return [[{ text: node.type === 'code' ? node.value : sourceOf(node, source) }]];
  });
}

/** The words of an item, and those of lists within it as items of the same list: there is one level. */
function itemsOf(item: ListItem, source: string): FixedPiece[][] {
  const own: FixedPiece[] = [];
  const within: FixedPiece[][] = [];
  for (const b of blocksOf(item.children, source))
    if (isList(b)) within.push(...b.items);
    else own.push(...(own.length > 0 ? [{ text: '\n' }] : []), ...b);
  return [...(own.length > 0 ? [own] : []), ...within];
}

function piecesIn(nodes: PhrasingContent[], marks: Marks, source: string): FixedPiece[] {
  return nodes.flatMap((node): FixedPiece[] => {
    if (node.type === 'text') return marks.link ? [{ text: node.value, ...marks }] : withLinks(node.value, marks);
    if (node.type === 'strong') return piecesIn(node.children, { ...marks, bold: true }, source);
    if (node.type === 'emphasis') return piecesIn(node.children, { ...marks, italic: true }, source);
    if (node.type === 'link') {
      const link = Link.safeParse(node.url);
      return piecesIn(node.children, link.success ? { ...marks, link: link.data } : marks, source);
    }
    if (node.type === 'break') return [{ text: '\n', ...marks }];
    return [{ text: node.type === 'inlineCode' ? node.value : sourceOf(node, source), ...marks }];
  });
}

function withLinks(text: string, marks: Marks): FixedPiece[] {
  const pieces: FixedPiece[] = [];
  let at = 0;
  for (const m of text.matchAll(bareLink)) {
    if (!Link.safeParse(m[0]).success) continue;
    pieces.push({ text: text.slice(at, m.index), ...marks }, { text: m[0], ...marks, link: m[0] });
    at = m.index + m[0].length;
  }
  return [...pieces, { text: text.slice(at), ...marks }];
}

const alike = (a: FixedPiece, b: FixedPiece): boolean => a.bold === b.bold && a.italic === b.italic && a.link === b.link;

/** Pieces that look alike as one, without blanks at the ends; none where no word is left. */
function tidiedPieces(pieces: FixedPiece[]): FixedPiece[] {
  const joined: FixedPiece[] = [];
  for (const piece of pieces) {
    const last = joined.at(-1);
    // How blanks look nobody sees.
    const p = piece.text.trim() === '' ? { text: piece.text, ...(piece.link !== undefined && { link: piece.link }) } : piece;
    if (p.text === '') continue;
    if (last && alike(last, p)) joined[joined.length - 1] = { ...last, text: last.text + p.text };
    else joined.push(p);
  }
  const isBlank = (p: FixedPiece | undefined) => p?.text.trim() === '';
  while (isBlank(joined[0])) joined.shift();
  while (isBlank(joined.at(-1))) joined.pop();
  return joined.map((p, i) => ({ ...p, text: cut(p.text, i === 0, i === joined.length - 1) }));
}
const cut = (text: string, first: boolean, last: boolean): string => {
  const begun = first ? text.trimStart() : text;
  return last ? begun.trimEnd() : begun;
};

/** A text as it is kept: without empty blocks and blanks at the ends. */
export const tidied = (text: FixedText): FixedText =>
  text.flatMap((b): FixedText => {
    if (!isList(b)) {
      const pieces = tidiedPieces(b);
      return pieces.length > 0 ? [pieces] : [];
    }
    const items = b.items.map(tidiedPieces).filter((i) => i.length > 0);
    return items.length > 0 ? [{ ...b, items }] : [];
  });

/**
 * The same text in plain letters; read back it is the same. Where marks meet within a word, or beside what could pass for one, the
 * letters at their ends are written by their numbers.
 */
export function markdownOf(text: FixedText): string {
  const plain = written(text, false);
  return sameJson(textFromMarkdown(plain), text) ? plain : written(text, true);
}

function written(text: FixedText, exact: boolean): string {
  const paragraph = (pieces: FixedPiece[]) => ({ type: 'paragraph' as const, children: phrasing(pieces, exact) });
  const root: Root = {
    type: 'root',
    children: text.map((b) =>
      isList(b)
        ? {
            type: 'list',
            ordered: b.list === 'numbers',
            spread: false,
            children: b.items.map((i) => ({ type: 'listItem', spread: false, children: [paragraph(i)] })),
          }
        : paragraph(b),
    ),
  };
  return toMarkdown(root, { bullet: '-', emphasis: '_', strong: '*', listItemIndent: 'one' }).trimEnd();
}

/** Words with their first and last letter as numbers. */
function byNumbers(words: string): PhrasingContent[] {
  const letters = [...words];
  const number = (letter: string): PhrasingContent => ({ type: 'html', value: `&#x${letter.codePointAt(0)!.toString(16)};` });
  const middle = letters.slice(1, -1).join('');
  return [
    number(letters[0]!),
    ...(middle ? [{ type: 'text' as const, value: middle }] : []),
    ...(letters.length > 1 ? [number(letters.at(-1)!)] : []),
  ];
}

const within: Record<keyof Marks, (inner: PhrasingContent[], link: string) => PhrasingContent> = {
  link: (children, url) => ({ type: 'link', url, children }),
  bold: (children) => ({ type: 'strong', children }),
  italic: (children) => ({ type: 'emphasis', children }),
};

/** Pieces as they are nested: what several have in common stands around all of them, so that no mark ends where the next begins. */
function phrasing(pieces: FixedPiece[], exact: boolean, [mark, ...rest]: (keyof Marks)[] = ['link', 'bold', 'italic']): PhrasingContent[] {
  if (!mark) return pieces.flatMap((p): PhrasingContent[] => (exact ? byNumbers(p.text) : [{ type: 'text', value: p.text }]));
  const runs: FixedPiece[][] = [];
  for (const p of pieces) {
    const last = runs.at(-1);
    if (last && last[0]![mark] === p[mark]) last.push(p);
    else runs.push([p]);
  }
  return runs.flatMap((run) => {
    const inner = phrasing(run, exact, rest);
    const has = run[0]![mark];
    return has ? [within[mark](inner, String(has))] : inner;
  });
}
