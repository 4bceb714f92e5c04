import { mergeAttributes, Node, type JSONContent } from '@tiptap/core';
import Document from '@tiptap/extension-document';
import Paragraph from '@tiptap/extension-paragraph';
import Text from '@tiptap/extension-text';
import { UndoRedo } from '@tiptap/extensions';
import { EditorContent, useEditor } from '@tiptap/react';
import { useEffect, useRef } from 'react';
import type { Place } from '../../core/plans/index.ts';
import { isReference, type RichText, type TextPiece } from '../../core/values/index.ts';
import { PlaceSelect } from './place-select';

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

/** Text with values picked from a list, kept as structured pieces and never as HTML. */
export function TextEditor({
  id,
  label,
  value,
  places,
  lines,
  onChange,
}: {
  id: string;
  label: string;
  value: RichText;
  places: Place[];
  lines: 'one' | 'many';
  onChange: (text: RichText) => void;
}) {
  const emitted = useRef(value);
  const latest = useRef(onChange);
  useEffect(() => {
    latest.current = onChange;
  });
  const name = (ref: string) => places.find((p) => p.ref === ref)?.label ?? 'a value that does not exist';
  const editor = useEditor({
    immediatelyRender: false,
    extensions: [lines === 'one' ? Document.extend({ content: 'paragraph' }) : Document, Paragraph, Text, Value, UndoRedo],
    content: toEditor(value, name),
    editorProps: {
      attributes: {
        id,
        role: 'textbox',
        'aria-label': label,
        'aria-multiline': String(lines === 'many'),
        class: `input ${lines === 'many' ? 'min-h-28' : ''}`,
      },
      ...(lines === 'one' && { handleKeyDown: (_view, e) => e.key === 'Enter' }),
    },
    onUpdate: ({ editor: e }) => {
      const next = fromEditor(e.getJSON());
      emitted.current = next;
      latest.current(next);
    },
  });
  // Undo and redo of the whole draft come from outside.
  useEffect(() => {
    if (editor && value !== emitted.current) {
      emitted.current = value;
      editor.commands.setContent(toEditor(value, name), { emitUpdate: false });
    }
  });
  return (
    <div>
      <EditorContent editor={editor} />
      <div className="mt-1 w-56">
        <PlaceSelect
          aria-label={`Insert a value into ${label}`}
          places={places}
          value={undefined}
          empty="Insert a value …"
          onChange={(ref) =>
            ref &&
            editor
              ?.chain()
              .focus()
              .insertContent({ type: 'value', attrs: { ref, label: name(ref) } })
              .run()
          }
        />
      </div>
    </div>
  );
}

const toEditor = (text: RichText, name: (ref: string) => string): JSONContent => ({
  type: 'doc',
  content: (text.length ? text : [[]]).map((p) => ({
    type: 'paragraph',
    content: p.flatMap((x): JSONContent[] =>
      isReference(x) ? [{ type: 'value', attrs: { ref: x.ref, label: name(x.ref) } }] : x.text ? [{ type: 'text', text: x.text }] : [],
    ),
  })),
});

const fromEditor = (doc: JSONContent): RichText =>
  (doc.content ?? []).map((p) =>
    (p.content ?? []).flatMap((x): TextPiece[] => {
      const ref: unknown = x.attrs?.['ref'];
      return x.type === 'value' && typeof ref === 'string' ? [{ ref }] : x.text ? [{ text: x.text }] : [];
    }),
  );
