import { Selection } from '@tiptap/pm/state';
import { EditorContent, useEditor } from '@tiptap/react';
import { useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import { useLatest } from '~/ui/latest';
import type { RichText } from '../../core/values/index.ts';
import { FormatBar } from './format-bar';
import { PlaceSelect } from './place-select';
import { extensionsFor, fromDocument, toDocument } from './text-document';
import type { TextEditorProps } from './text-editor';

/** The editor itself; it comes in a piece of its own, when the first text is shown. */
export default function RichEditor({ id, label, value, places, manner, takeOver, onChange }: TextEditorProps) {
  // What was typed and has not come back as `value` yet. React shows it later than it is typed, so an older value that
  // comes back is an echo, and only a value that is none of these comes from outside.
  const typed = useRef<RichText[]>([]);
  const seen = useRef(value);
  const latest = useLatest(onChange);
  const name = (ref: string) => places.find((p) => p.ref === ref)?.label ?? 'a value that does not exist';
  // The same from one drawing to the next: the editor takes new ones as a change, and lays its view out again.
  const extensions = useMemo(() => extensionsFor(manner), [manner]);
  const editorProps = useMemo(
    () => ({
      attributes: {
        id,
        role: 'textbox',
        'aria-label': label,
        'aria-multiline': String(manner !== 'line'),
        class: `input rich ${manner === 'line' ? '' : 'min-h-28'}`,
      },
      ...(manner === 'line' && { handleKeyDown: (_view: unknown, e: KeyboardEvent) => e.key === 'Enter' }),
    }),
    [id, label, manner],
  );
  const editor = useEditor({
    immediatelyRender: false,
    extensions,
    content: toDocument(value, name, manner),
    editorProps,
    onUpdate: ({ editor: e }) => {
      const next = fromDocument(e.getJSON());
      typed.current.push(next);
      latest.current(next);
    },
  });
  const taking = useLatest(takeOver);
  useLayoutEffect(() => {
    const from = editor && taking.current?.();
    if (!from) return;
    typed.current.push(from.text);
    editor.commands.setContent(toDocument(from.text, name, manner), { emitUpdate: false });
    if (!from.focused) return;
    // At once: the editor’s own command waits for the next frame, and a key that comes before that would go nowhere.
    editor.view.dispatch(editor.state.tr.setSelection(Selection.atEnd(editor.state.doc)));
    editor.view.focus();
  }, [editor]); // eslint-disable-line react-hooks/exhaustive-deps -- once, when it is there
  // Undo and redo of the whole draft come from outside.
  useEffect(() => {
    if (!editor || value === seen.current) return;
    const echo = typed.current.indexOf(value);
    typed.current = echo < 0 ? [] : typed.current.slice(echo + 1);
    seen.current = value;
    if (echo < 0) editor.commands.setContent(toDocument(value, name, manner), { emitUpdate: false });
  });
  return (
    <div>
      {manner === 'formatted' && editor && <FormatBar editor={editor} label={label} />}
      <EditorContent editor={editor} />
      {places.length > 0 && (
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
      )}
    </div>
  );
}
