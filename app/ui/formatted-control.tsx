import { useEffect, useRef, useState } from 'react';
import { formattedFrom, formattedSource, isFormattedText, isList, typedAs, type RichText, type Value } from '../../core/values/index.ts';
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
  const begunWith = useRef(source);
  const plain = useRef<HTMLTextAreaElement>(null);
  const beside = useRef<HTMLDivElement>(null);
  // Plain letters stay until the editor stands ready beside them; where it cannot be fetched they stay for good.
  const [editor, setEditor] = useState<'none' | 'coming' | 'there'>('none');
  const latest = useLatest(onChange);
  const change = (typed: string) => latest.current(typed === '' ? null : (typedAs(typed, 'formatted') ?? null));
  useEffect(() => {
    let here = true;
    loadEditor().then(
      () => here && setEditor('coming'),
      () => undefined,
    );
    return () => {
      here = false;
    };
  }, []);
  // In one go with the editor being ready: no key can fall between the two.
  const takeOver = () => {
    const from = plain.current;
    if (!from) return undefined;
    const focused = document.activeElement === from;
    const read = from.value === '' ? null : (typedAs(from.value, 'formatted') ?? null);
    const shown = textOf(read, from.value);
    const taken = from.value === begunWith.current ? text : read === null ? shown : withEnd(shown, from.value);
    if (taken !== text) {
      setText(taken);
      latest.current(read);
    }
    setEditor('there');
    from.hidden = true;
    if (beside.current) beside.current.hidden = false;
    return { text: taken, focused };
  };
  return (
    <>
      {editor !== 'there' ? (
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
      ) : (
        <input type="hidden" name={name} value={source} />
      )}
      {editor !== 'none' && (
        <div ref={beside} hidden={editor === 'coming'}>
          <TextEditor
            id={id}
            label={label}
            value={text}
            places={[]}
            manner="formatted"
            takeOver={takeOver}
            onChange={(next) => {
              setText(next);
              onChange(formattedFrom(next));
            }}
          />
        </div>
      )}
    </>
  );
}

const textOf = (value: Value, source: string): RichText => (isFormattedText(value) ? value.formatted : source ? [[{ text: source }]] : []);

/** The blank or the new line that somebody has typed last and is typing on from; as long as nothing follows it says nothing. */
function withEnd(text: RichText, typed: string): RichText {
  if (/\n *$/.test(typed)) return [...text, []];
  const blank = / +$/.exec(typed)?.[0];
  const last = text.at(-1);
  if (!blank || !last) return text;
  const end = isList(last)
    ? { ...last, items: last.items.map((item, i) => (i === last.items.length - 1 ? [...item, { text: blank }] : item)) }
    : [...last, { text: blank }];
  return [...text.slice(0, -1), end];
}
