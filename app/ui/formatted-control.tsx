import { useState } from 'react';
import { formattedFrom, formattedSource, isFormattedText, type RichText, type Value } from '../../core/values/index.ts';
import { TextEditor } from '~/sheet/text-editor';
import { useHydrated } from './choices';

/** Formatted text: written with its emphasis and lists in sight; before scripts load in plain letters (CommonMark). */
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
  const hydrated = useHydrated();
  const source = isFormattedText(value) ? formattedSource(value) : typeof value === 'string' ? value : '';
  // What the editor shows: its own text, which may end with a blank that is no part of the value.
  const [text, setText] = useState<RichText>(() => (isFormattedText(value) ? value.formatted : source ? [[{ text: source }]] : []));
  if (!hydrated)
    return <textarea {...ids} id={id} name={name} rows={5} className="input" defaultValue={source} aria-required={required || undefined} />;
  return (
    <>
      <input type="hidden" name={name} value={source} />
      <TextEditor
        id={id}
        label={label}
        value={text}
        places={[]}
        manner="formatted"
        onChange={(next) => {
          setText(next);
          onChange(formattedFrom(next));
        }}
      />
    </>
  );
}
