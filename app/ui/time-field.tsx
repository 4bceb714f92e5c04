import { useState } from 'react';
import { typedAs } from '../../core/values/index.ts';

/**
 * A time of day, typed: `9`, `930` and `9.30` become 09:00 and 09:30 when it is left. What is none stays as it was typed, for
 * whoever reads it to refuse.
 */
export function TimeField({
  value,
  name,
  onValue,
  ...ids
}: {
  /** `hh:mm`, what was typed, or empty. */
  value: string;
  name?: string;
  onValue: (time: string) => void;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
  'aria-required'?: boolean | undefined;
}) {
  const [typed, setTyped] = useState<string>();
  const read = (text: string) => (typedAs(text.trim(), 'time') as string | null | undefined) ?? text;
  return (
    <input
      {...ids}
      name={name}
      className="input numbers w-24"
      inputMode="numeric"
      autoComplete="off"
      placeholder="hh:mm"
      maxLength={20}
      value={typed ?? value}
      onChange={(e) => {
        setTyped(e.target.value);
        onValue(e.target.value.trim() === '' ? '' : read(e.target.value));
      }}
      onBlur={() => setTyped(undefined)}
    />
  );
}
