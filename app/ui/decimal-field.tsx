import { useState } from 'react';
import { digitsOf, isNumber, typedAs, type Value } from '../../core/values/index.ts';

const asText = (value: Value): string => (isNumber(value) ? digitsOf(value) : typeof value === 'string' ? value : '');

/**
 * A number that keeps every digit, typed with a point or a comma. What is no number is kept as it was typed: a list of what
 * is missing or wrong says so, and the server refuses it.
 */
export function DecimalField({
  value,
  name,
  unit,
  onChange,
  ...ids
}: {
  value: Value;
  name?: string;
  unit?: string | undefined;
  onChange: (value: Value) => void;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
  'aria-required'?: boolean | undefined;
}) {
  const [typed, setTyped] = useState<string>();
  return (
    <span className="flex items-center gap-2">
      <input
        {...ids}
        name={name}
        className="input numbers"
        inputMode="decimal"
        autoComplete="off"
        value={typed ?? asText(value)}
        onChange={(e) => {
          setTyped(e.target.value);
          const text = e.target.value.trim().replace(',', '.');
          onChange(text === '' ? null : (typedAs(text, 'number') ?? text));
        }}
        onBlur={() => isNumber(value) && setTyped(undefined)}
      />
      {unit && <span className="text-faint">{unit}</span>}
    </span>
  );
}
