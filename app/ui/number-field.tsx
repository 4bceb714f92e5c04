import { useId, useState, type ReactNode } from 'react';

/** A number as it is typed: with a point or a comma, and nothing else. */
function numberIn(typed: string, whole: boolean): number | undefined {
  const text = typed.trim().replace(',', '.');
  return (whole ? /^-?\d{1,15}$/ : /^-?\d{1,15}(\.\d{1,10})?$/).test(text) ? Number(text) : undefined;
}

/**
 * A number within bounds. What is none of them stays as it was typed, is told, and is not taken; arrows go up and down by
 * one. Where it may be left out, empty is nothing.
 */
export function NumberField({
  value,
  min,
  max,
  whole = true,
  optional = false,
  before,
  after,
  width = 'w-16',
  onValue,
  ...ids
}: {
  value: number | undefined;
  min?: number;
  max?: number;
  whole?: boolean;
  optional?: boolean;
  /** Words of the line it stands in. */
  before?: ReactNode;
  after?: ReactNode;
  width?: string;
  onValue: (value: number | undefined) => void;
  id?: string;
  placeholder?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
}) {
  const own = useId();
  const [typed, setTyped] = useState<string>();
  const within = (n: number) => (min === undefined || n >= min) && (max === undefined || n <= max);
  const read = typed === undefined ? value : numberIn(typed, whole);
  const empty = typed !== undefined && typed.trim() === '';
  const wrong = typed !== undefined && !(empty && optional) && (read === undefined || !within(read));
  const bounds =
    min !== undefined && max !== undefined
      ? ` from ${min} to ${max}`
      : min !== undefined
        ? ` of at least ${min}`
        : max !== undefined
          ? ` of at most ${max}`
          : '';
  const take = (text: string) => {
    setTyped(text);
    if (text.trim() === '') return optional ? onValue(undefined) : undefined;
    const n = numberIn(text, whole);
    if (n !== undefined && within(n) && n !== value) onValue(n);
  };
  return (
    <span className="block">
      <label className={before || after ? 'flex items-center gap-2 text-sm' : 'block'}>
        {before}
        <input
          {...ids}
          className={`input numbers ${width}!`}
          inputMode={whole ? 'numeric' : 'decimal'}
          autoComplete="off"
          value={typed ?? value ?? ''}
          aria-invalid={wrong ? true : undefined}
          aria-describedby={[ids['aria-describedby'], wrong && own].filter(Boolean).join(' ') || undefined}
          onChange={(e) => take(e.target.value)}
          onBlur={() => !wrong && setTyped(undefined)}
          onKeyDown={(e) => {
            const by = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0;
            if (by === 0 || e.altKey || e.ctrlKey || e.metaKey) return;
            e.preventDefault();
            const next = (read ?? (min === undefined ? 0 : min - by)) + by;
            if (within(next)) take(String(next));
          }}
        />
        {after}
      </label>
      {wrong && (
        <span id={own} role="alert" className="mt-1 block text-sm text-coral">
          Type a {whole ? 'whole ' : ''}number{bounds}.
        </span>
      )}
    </span>
  );
}
