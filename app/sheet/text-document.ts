import { mergeAttributes, Node, type Extensions, type JSONContent } from '@tiptap/core';
import Bold from '@tiptap/extension-bold';
import Document from '@tiptap/extension-document';
import Italic from '@tiptap/extension-italic';
import LinkMark from '@tiptap/extension-link';
import { BulletList, ListItem, ListKeymap, OrderedList } from '@tiptap/extension-list';
import Paragraph from '@tiptap/extension-paragraph';
import Text from '@tiptap/extension-text';
import { UndoRedo } from '@tiptap/extensions';
import { isList, isReference, Link, type RichText, type TextPiece } from '../../core/values/index.ts';

/** A picked value in a text: one unit that the cursor steps over. */
const Value = Node.create({
  name: 'value',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ ref: { default: '' }, label: { default: '' } }),
  parseHTML: () => [{ tag: 'span[data-value]', getAttrs: (el) => ({ ref: el.getAttribute('data-value'), label: el.textContent }) }],
  renderHTML: ({ node, HTMLAttributes }) => [
    'span',
    mergeAttributes(HTMLAttributes, { 'data-value': String(node.attrs['ref']), class: 'rounded bg-sea-wash px-1 text-sea' }),
    String(node.attrs['label']),
  ],
});

/** What a text may hold: a line; paragraphs; or paragraphs and lists with emphasis and links. */
export type Manner = 'line' | 'plain' | 'formatted';

export const extensionsFor = (manner: Manner): Extensions => [
  manner === 'line' ? Document.extend({ content: 'paragraph' }) : Document,
  Paragraph,
  Text,
  Value,
  UndoRedo,
  ...(manner === 'formatted'
    ? [
        Bold,
        Italic,
        BulletList,
        OrderedList,
        // One level: an item is its words.
        ListItem.extend({ content: 'paragraph' }),
        ListKeymap,
        LinkMark.configure({ openOnClick: false, autolink: false, linkOnPaste: false, protocols: ['http', 'https', 'mailto'] }),
      ]
    : []),
];

/** A text as an editor of this manner can show it: what it has no form for is there as words, and not left out with its form. */
function shownAs(text: RichText, manner: Manner): RichText {
  if (manner === 'formatted') return text;
  const bare = (p: TextPiece): TextPiece => (isReference(p) ? { ref: p.ref } : { text: p.text });
  const lines = text.flatMap((b) => (isList(b) ? b.items : [b])).map((line) => line.map(bare));
  return manner === 'plain' ? lines : [lines.flatMap((line, i) => (i > 0 ? [{ text: ' ' }, ...line] : line))];
}

/** The editor's document for a text; `name` gives the words a picked value is shown with. */
export function toDocument(given: RichText, name: (ref: string) => string, manner: Manner): JSONContent {
  const text = shownAs(given, manner);
  const paragraph = (pieces: TextPiece[]): JSONContent => ({
    type: 'paragraph',
    content: pieces.flatMap((p): JSONContent[] => {
      const marks = [
        ...(p.bold ? [{ type: 'bold' }] : []),
        ...(p.italic ? [{ type: 'italic' }] : []),
        ...(p.link ? [{ type: 'link', attrs: { href: p.link } }] : []),
      ];
      if (isReference(p)) return [{ type: 'value', attrs: { ref: p.ref, label: name(p.ref) }, marks }];
      return p.text ? [{ type: 'text', text: p.text, marks }] : [];
    }),
  });
  return {
    type: 'doc',
    content: (text.length ? text : [[]]).map((b) =>
      isList(b)
        ? {
            type: b.list === 'numbers' ? 'orderedList' : 'bulletList',
            content: b.items.map((i) => ({ type: 'listItem', content: [paragraph(i)] })),
          }
        : paragraph(b),
    ),
  };
}

/** The text of an editor's document. A link that leads nowhere we go is words only. */
export function fromDocument(doc: JSONContent): RichText {
  const pieces = (p: JSONContent): TextPiece[] =>
    (p.content ?? []).flatMap((x): TextPiece[] => {
      const ref: unknown = x.attrs?.['ref'];
      const has = (type: string) => x.marks?.find((m) => m.type === type);
      const link = Link.safeParse(has('link')?.attrs?.['href']);
      const marks = {
        ...(has('bold') && { bold: true as const }),
        ...(has('italic') && { italic: true as const }),
        ...(link.success && { link: link.data }),
      };
      if (x.type === 'value' && typeof ref === 'string') return [{ ref, ...marks }];
      return x.text ? [{ text: x.text, ...marks }] : [];
    });
  return (doc.content ?? []).map((b) =>
    b.type === 'bulletList' || b.type === 'orderedList'
      ? {
          list: b.type === 'orderedList' ? ('numbers' as const) : ('points' as const),
          items: (b.content ?? []).map((item) => pieces(item.content?.[0] ?? {})),
        }
      : pieces(b),
  );
}
