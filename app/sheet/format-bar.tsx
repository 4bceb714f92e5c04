import type { Editor } from '@tiptap/core';
import { useEditorState } from '@tiptap/react';
import { Bold, Italic, Link2, List, ListOrdered, type LucideIcon } from 'lucide-react';
import { useId, useState } from 'react';
import { Link } from '../../core/values/index.ts';
import { Button } from '~/ui/button';

/** What the words under the cursor look like, and how to change it. Ctrl B and Ctrl I do the same. */
export function FormatBar({ editor, label }: { editor: Editor; label: string }) {
  const on = useEditorState({
    editor,
    selector: ({ editor: e }) => ({
      bold: e.isActive('bold'),
      italic: e.isActive('italic'),
      points: e.isActive('bulletList'),
      numbers: e.isActive('orderedList'),
      link: String(e.getAttributes('link')['href'] ?? ''),
    }),
  });
  const [address, setAddress] = useState<string>();
  const chain = () => editor.chain().focus();
  return (
    <>
      <div role="toolbar" aria-label={`Format ${label}`} className="mb-1 flex">
        <Toggle icon={Bold} label="Bold" on={on.bold} act={() => chain().toggleMark('bold').run()} />
        <Toggle icon={Italic} label="Italic" on={on.italic} act={() => chain().toggleMark('italic').run()} />
        <Toggle icon={List} label="List with points" on={on.points} act={() => chain().toggleList('bulletList', 'listItem').run()} />
        <Toggle icon={ListOrdered} label="Numbered list" on={on.numbers} act={() => chain().toggleList('orderedList', 'listItem').run()} />
        <Toggle icon={Link2} label="Link" on={on.link !== ''} act={() => setAddress(address === undefined ? on.link : undefined)} />
      </div>
      {address !== undefined && (
        <LinkAddress
          address={address}
          onChange={setAddress}
          onSet={() => {
            const words = editor.state.selection.empty && !on.link;
            if (words)
              chain()
                .insertContent({ type: 'text', text: address, marks: [{ type: 'link', attrs: { href: address } }] })
                .run();
            else chain().extendMarkRange('link').setMark('link', { href: address }).run();
            setAddress(undefined);
          }}
          onRemove={
            on.link
              ? () => {
                  chain().extendMarkRange('link').unsetMark('link').run();
                  setAddress(undefined);
                }
              : undefined
          }
        />
      )}
    </>
  );
}

function Toggle({ icon: Icon, label, on, act }: { icon: LucideIcon; label: string; on: boolean; act: () => void }) {
  return (
    <button
      type="button"
      data-tip={label}
      aria-pressed={on}
      onClick={act}
      className="inline-flex size-8 items-center justify-center rounded text-sea hover:bg-sea-wash aria-pressed:bg-sea-wash aria-pressed:shadow-[inset_0_-2px_0_currentColor]"
    >
      <Icon size={15} aria-hidden />
      <span className="sr-only">{label}</span>
    </button>
  );
}

function LinkAddress({
  address,
  onChange,
  onSet,
  onRemove,
}: {
  address: string;
  onChange: (address: string) => void;
  onSet: () => void;
  onRemove: (() => void) | undefined;
}) {
  const id = useId();
  const read = Link.safeParse(address);
  const [tried, setTried] = useState(false);
  const wrong = tried && !read.success;
  const set = () => (read.success ? onSet() : setTried(true));
  return (
    <div className="mb-1 border-l-2 border-sea pl-2">
      <label htmlFor={id} className="text-sm text-faint">
        Address the words lead to
      </label>
      <div className="flex gap-1">
        <input
          id={id}
          className="input"
          type="url"
          autoFocus
          value={address}
          placeholder="https://"
          aria-invalid={wrong}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          onChange={(e) => onChange(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== 'Enter') return;
            e.preventDefault();
            set();
          }}
        />
        <Button onClick={set}>Set link</Button>
        {onRemove && <Button onClick={onRemove}>Remove link</Button>}
      </div>
      {wrong && (
        <p id={`${id}-wrong`} className="mt-1 text-sm text-coral">
          A link begins with https://, http:// or mailto: and has no blanks.
        </p>
      )}
    </div>
  );
}
