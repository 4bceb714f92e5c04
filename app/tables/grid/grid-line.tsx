import { clsx } from 'clsx';
import { PanelRight } from 'lucide-react';
import { memo } from 'react';
import { Link } from 'react-router';
import type { Column } from '../../../core/forms/index.ts';
import type { Line } from './model';
import { atRight, cellWords } from './words';

interface LineProps {
  row: number;
  top: number;
  /** Undefined: the line that is not there yet. */
  line: Line | undefined;
  columns: readonly Column[];
  wide: readonly number[];
  lefts: readonly number[];
  frozen: number;
  /** The columns that its key is made of. */
  keyCols: readonly number[];
  /** The column that the keyboard is on, where it is in this row. */
  at: number | undefined;
  /** The columns that are taken, from and to. */
  from: number | undefined;
  to: number | undefined;
  /** Where a row is opened, but for its key. */
  open: string;
}

/** Which cell of a grid something happened in. */
export function spotOf(target: EventTarget): { row: number; col: number } | undefined {
  const [, row, col] = /^cell-(\d+)-(\d+)$/.exec((target as HTMLElement).closest('[role=gridcell]')?.id ?? '') ?? [];
  return row === undefined ? undefined : { row: Number(row), col: Number(col) };
}

/** A row of the grid; what happens in it is heard by the grid, so that only what it shows draws it anew. */
export const GridLine = memo(function GridLine({ row, top, line, columns, wide, lefts, frozen, keyCols, at, from, to, open }: LineProps) {
  const isNew = line !== undefined && !line.kept;
  return (
    <div
      role="row"
      aria-rowindex={row + 2}
      className={clsx('group absolute left-0 flex h-7 border-b', from !== undefined ? 'bg-paper' : 'bg-sheet')}
      style={{ top }}
    >
      <div
        role="rowheader"
        className="sticky left-0 z-10 flex shrink-0 items-center justify-between border-r bg-inherit px-1 text-xs text-faint"
        style={{ width: 52 }}
      >
        <span className="numbers" aria-hidden>
          {line ? (isNew ? '·' : row + 1) : '+'}
        </span>
        {!line?.kept && <span className="sr-only">New row</span>}
        {line?.kept && (
          <Link
            id={`open-${row}`}
            to={`${open}${encodeURIComponent(line.kept.key)}`}
            tabIndex={-1}
            preventScrollReset
            aria-label={`Open ${keyCols.map((col) => line.texts[col]).join(', ')}`}
            className={clsx('p-0.5 hover:text-sea', at === undefined && 'opacity-0 group-hover:opacity-100')}
          >
            <PanelRight size={13} aria-hidden />
          </Link>
        )}
      </div>
      {columns.map((c, col) => {
        const text = line?.texts[col] ?? '';
        const told = line?.wrong[col];
        const taken = from !== undefined && col >= from && col <= to!;
        const words = cellWords(c, text);
        return (
          <div
            key={c.id}
            id={`cell-${row}-${col}`}
            role="gridcell"
            aria-colindex={col + 2}
            aria-selected={taken}
            aria-invalid={told ? true : undefined}
            aria-description={told}
            data-tip={told ?? (words.length > 24 ? words : undefined)}
            className={clsx(
              'shrink-0 truncate border-r px-2 py-1 select-none',
              atRight(c) && 'numbers text-right',
              col < frozen ? 'sticky z-10' : 'relative',
              taken ? 'bg-sea-wash' : col < frozen && 'bg-inherit',
              told && 'bg-coral-wash text-coral',
              col === at && 'outline-2 -outline-offset-2 outline-sea',
            )}
            style={{ width: wide[col], ...(col < frozen && { left: lefts[col] }) }}
          >
            {words}
          </div>
        );
      })}
    </div>
  );
});
