import { clsx } from 'clsx';
import { useEffect, useId, useLayoutEffect, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import type { Column } from '../../../core/forms/index.ts';
import type { loader } from '~/routes/find';
import { choicesOf, hasLines } from './words';

const found: ReadonlySet<Column['kind']> = new Set(['person', 'group', 'team', 'location']);

/**
 * A cell while somebody types into it: what it may say stands under it, where that is known. Enter and Tab say it and go on, Escape
 * leaves the cell as it was; leaving it says it. Where a cell may have several lines, Alt with Enter begins another.
 */
export function CellEditor({
  column,
  text,
  whole,
  onDone,
}: {
  column: Column;
  text: string;
  /** What stands in it is edited, and not typed over. */
  whole: boolean;
  /** `text` undefined: as it was; `by`: where the keyboard goes. */
  onDone: (text: string | undefined, by: { row: number; col: number } | undefined) => void;
}) {
  const [typed, setTyped] = useState(text);
  const [at, setAt] = useState(-1);
  const list = useId();
  const done = useRef(false);
  const input = useRef<HTMLInputElement & HTMLTextAreaElement>(null);
  const lines = hasLines(column);
  const Box = lines ? 'textarea' : 'input';
  const { load, data } = useFetcher<typeof loader>();
  const isFound = found.has(column.kind);
  useLayoutEffect(() => {
    const box = input.current;
    box?.focus({ preventScroll: true });
    box?.setSelectionRange(box.value.length, box.value.length);
  }, []);
  useEffect(() => {
    if (!isFound || typed.trim() === '') return;
    const wait = setTimeout(() => void load(`/find?kind=${column.kind}&q=${encodeURIComponent(typed.trim())}`), 120);
    return () => clearTimeout(wait);
  }, [isFound, column.kind, typed, load]);
  const known = choicesOf(column);
  const offered = known
    ? known.filter((k) => whole || k.toLowerCase().includes(typed.trim().toLowerCase()))
    : isFound && data && 'choices' in data && data.choices && data.q === typed.trim()
      ? data.choices.map((c) => c.name)
      : [];
  const finish = (said: string | undefined, by?: { row: number; col: number }) => {
    if (done.current) return;
    done.current = true;
    onDone(said, by);
  };
  /** What is chosen; else what was typed, or the one choice that begins so. */
  const said = () => {
    if (at >= 0) return offered[at] ?? typed;
    const begins = typed.trim() === '' ? [] : offered.filter((o) => o.toLowerCase().startsWith(typed.trim().toLowerCase()));
    return begins.length === 1 ? begins[0]! : typed;
  };
  return (
    <>
      <Box
        ref={input}
        {...(lines && { rows: Math.min(8, typed.split('\n').length + Math.floor(typed.length / 40)) })}
        role={known || isFound ? 'combobox' : undefined}
        aria-label={column.label}
        aria-expanded={known || isFound ? offered.length > 0 : undefined}
        aria-controls={known || isFound ? list : undefined}
        aria-activedescendant={at >= 0 ? `${list}-${at}` : undefined}
        autoComplete="off"
        spellCheck={false}
        className={clsx(
          'block w-full border-2 border-sea bg-sheet px-1.5 text-[13px]/[18px] outline-none',
          lines ? 'min-h-7 min-w-64 resize-none py-0.5 shadow-float' : 'h-7',
        )}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(-1);
        }}
        onBlur={() => finish(typed)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (lines && e.key === 'Enter' && e.altKey) {
            const { selectionStart: from, selectionEnd: to } = e.currentTarget;
            e.currentTarget.setRangeText('\n', from ?? typed.length, to ?? typed.length, 'end');
            setTyped(e.currentTarget.value);
          } else if (e.key === 'Enter') finish(said(), { row: e.shiftKey ? -1 : 1, col: 0 });
          else if (e.key === 'Tab') finish(said(), { row: 0, col: e.shiftKey ? -1 : 1 });
          else if (e.key === 'Escape') finish(undefined);
          else if (offered.length > 0 && e.key === 'ArrowDown') setAt((at + 1) % offered.length);
          else if (offered.length > 0 && e.key === 'ArrowUp') setAt(at <= 0 ? offered.length - 1 : at - 1);
          else if (!whole && !typed.includes('\n') && e.key === 'ArrowDown') finish(typed, { row: 1, col: 0 });
          else if (!whole && !typed.includes('\n') && e.key === 'ArrowUp') finish(typed, { row: -1, col: 0 });
          else return;
          e.preventDefault();
        }}
      />
      {offered.length > 0 && (
        <ul id={list} role="listbox" aria-label={`What ${column.label} may say`} className="max-h-56 overflow-y-auto border bg-sheet shadow-float">
          {offered.map((o, i) => (
            <li
              key={o}
              id={`${list}-${i}`}
              role="option"
              aria-selected={i === at}
              className={clsx('cursor-pointer px-2 py-1', i === at ? 'bg-sea-wash' : 'hover:bg-paper')}
              // Before the text loses the keyboard.
              onPointerDown={(e) => {
                e.preventDefault();
                finish(o, { row: 1, col: 0 });
              }}
            >
              {o}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
