import { clsx } from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { TableDefinition } from '../../../core/tables/index.ts';
import { atRight } from './words';

/** The heads of a grid's columns: a click sorts by one, its edge widens it. By keys the grid does both, where the keyboard is. */
export function GridHead({
  definition,
  width,
  height,
  headWide,
  wide,
  lefts,
  frozen,
  sort,
  onSort,
  onWiden,
}: {
  definition: TableDefinition;
  width: number;
  height: number;
  /** How wide the heads of rows are. */
  headWide: number;
  wide: readonly number[];
  lefts: readonly number[];
  frozen: number;
  sort: { col: number; down: boolean } | undefined;
  onSort: (col: number) => void;
  onWiden: (col: number, to: number) => void;
}) {
  return (
    <div role="row" aria-rowindex={1} className="sticky top-0 z-20 flex border-b border-ink bg-sheet" style={{ width, height }}>
      <div role="columnheader" className="sticky left-0 z-10 shrink-0 bg-sheet" style={{ width: headWide }}>
        <span className="sr-only">Row</span>
      </div>
      {definition.columns.map((c, col) => (
        <div
          key={c.id}
          role="columnheader"
          aria-label={c.label}
          aria-sort={sort?.col === col ? (sort.down ? 'descending' : 'ascending') : undefined}
          className={clsx('relative flex shrink-0 items-center gap-1 px-2', atRight(c) && 'justify-end', col < frozen && 'sticky z-10 bg-sheet')}
          style={{ width: wide[col], ...(col < frozen && { left: lefts[col] }) }}
        >
          <button type="button" tabIndex={-1} className="flex min-w-0 items-center gap-1 hover:text-sea" onClick={() => onSort(col)}>
            <span className="truncate font-medium">{c.label}</span>
            {c.unit && c.kind === 'number' && <span className="text-faint">({c.unit})</span>}
            {definition.key.includes(c.id) && <span className="text-faint">(key)</span>}
            {sort?.col === col && (sort.down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
          </button>
          <span
            aria-hidden
            className="absolute top-0 -right-1 z-20 h-full w-2 cursor-col-resize touch-none hover:bg-sea-wash"
            onPointerDown={(e) => {
              e.preventDefault();
              const [from, was] = [e.clientX, wide[col]!];
              const move = (m: globalThis.PointerEvent) => onWiden(col, was + m.clientX - from);
              const up = () => {
                window.removeEventListener('pointermove', move);
                window.removeEventListener('pointerup', up);
              };
              window.addEventListener('pointermove', move);
              window.addEventListener('pointerup', up);
            }}
          />
        </div>
      ))}
    </div>
  );
}
