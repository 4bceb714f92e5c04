import { useEffect, useRef, useState } from 'react';
import { formattedFrom, formattedSource, isFormattedText, typedAs, type RichText, type Value } from '../../core/values/index.ts';
import { loadEditor, TextEditor } from '~/sheet/text-editor';
import { useLatest } from './latest';

/**
 * Formatted text: written with its emphasis and lists in sight. Until the editor is there it is written in plain letters (CommonMark), and what
 * was typed, and the keyboard, go over into it.
 */
export function FormattedControl({
  id,
  name,
  label,
  required,
  value,
  onChange,
  ...ids
}: {
  id: string;
  name: string;
  label: string;
  required: boolean;
  value: Value;
  onChange: (value: Value) => void;
  'aria-describedby': string | undefined;
  'aria-invalid': true | undefined;
}) {
  const source = isFormattedText(value) ? formattedSource(value) : typeof value === 'string' ? value : '';
  // What the editor shows: its own text, which may end with a blank that is no part of the value.
  const [text, setText] = useState<RichText>(() => textOf(value, source));
  const plain = useRef<HTMLTextAreaElement>(null);
  const [editor, setEditor] = useState<{ focused: boolean }>();
  const latest = useLatest(onChange);
  const change = (typed: string) => latest.current(typed === '' ? null : (typedAs(typed, 'formatted') ?? null));
  useEffect(() => {
    let here = true;
    const goOver = () => {
      if (!here) return;
      const typed = plain.current?.value;
      if (typed !== undefined && typed !== source) {
        const read = typedAs(typed, 'formatted') ?? null;
        setText(textOf(read, typed));
        latest.current(read);
      }
      setEditor({ focused: document.activeElement === plain.current });
    };
    // Where it cannot be fetched, plain letters stay.
    loadEditor().then(goOver, () => undefined);
    return () => {
      here = false;
    };
  }, []); // eslint-disable-line react-hooks/exhaustive-deps -- once, when it comes to be
  if (!editor)
    return (
      <textarea
        {...ids}
        ref={plain}
        id={id}
        name={name}
        rows={5}
        className="input"
        defaultValue={source}
        aria-required={required || undefined}
        onChange={(e) => change(e.target.value)}
      />
    );
  return (
    <>
      <input type="hidden" name={name} value={source} />
      <TextEditor
        id={id}
        label={label}
        value={text}
        places={[]}
        manner="formatted"
        focused={editor.focused}
        onChange={(next) => {
          setText(next);
          onChange(formattedFrom(next));
        }}
      />
    </>
  );
}

const textOf = (value: Value, source: string): RichText => (isFormattedText(value) ? value.formatted : source ? [[{ text: source }]] : []);
