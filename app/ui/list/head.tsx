import type { Header } from '@tanstack/react-table';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { Link } from 'react-router';
import { writeAsked, type ListAsked, type ListShape } from '../../../core/lists/index.ts';
import { addressOf } from './address';
import type { features } from './table';
import { leastWide, mostWide } from './widths';

/** The heads of a list's columns: a click orders by one, its edge widens it. */
export function Head<Row extends object>({
  heads,
  shape,
  asked,
  beside,
  chosen,
  acts,
  resizes,
}: {
  heads: Header<typeof features, Row>[];
  shape: ListShape;
  asked: ListAsked;
  beside: string;
  /** There is a column of boxes before them, and one of acts behind. */
  chosen: boolean;
  acts: boolean;
  resizes: boolean;
}) {
  return (
    <thead className="sticky top-0 z-10 bg-sheet max-sm:sr-only">
      <tr aria-rowindex={1}>
        {chosen && (
          <th className="border-b border-ink">
            <span className="sr-only">Chosen</span>
          </th>
        )}
        {heads.map((h) => {
          const column = shape.columns[h.id]!;
          const by = asked.sort.by === h.id;
          return (
            <th
              key={h.id}
              scope="col"
              // By its words alone: its edge has a name of its own.
              aria-label={column.label}
              aria-sort={by ? (asked.sort.down ? 'descending' : 'ascending') : undefined}
              className={clsx(
                'relative border-b border-ink px-2 py-1.5 first:border-l-3 first:border-l-transparent font-normal whitespace-nowrap text-faint',
                column.right ? 'text-right' : 'text-left',
              )}
            >
              {column.sorts ? (
                <Link
                  to={addressOf('', beside, writeAsked(shape, { ...asked, sort: { by: h.id, down: by ? !asked.sort.down : false } })) || '?'}
                  preventScrollReset
                  className={clsx('inline-flex items-center gap-1 hover:text-sea', by && 'text-ink')}
                >
                  {column.label}
                  {by && (asked.sort.down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
                </Link>
              ) : (
                column.label
              )}
              {resizes && <Edge of={h} label={column.label} />}
            </th>
          );
        })}
        {acts && (
          <th className="border-b border-ink">
            <span className="sr-only">Acts</span>
          </th>
        )}
      </tr>
    </thead>
  );
}

/** The edge of a column: dragged, or moved by arrows, it widens it; twice, or Enter, gives it its own width back. */
function Edge<Row extends object>({ of, label }: { of: Header<typeof features, Row>; label: string }) {
  const setSize = (to: number) =>
    of.getContext().table.setColumnSizing((now) => ({ ...now, [of.column.id]: Math.min(mostWide, Math.max(leastWide, to)) }));
  return (
    <span
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`Width of ${label}`}
      aria-valuenow={of.getSize()}
      aria-valuemin={leastWide}
      aria-valuemax={mostWide}
      onMouseDown={of.getResizeHandler()}
      onTouchStart={of.getResizeHandler()}
      onDoubleClick={() => of.column.resetSize()}
      onKeyDown={(e) => {
        if (e.key === 'ArrowRight' || e.key === 'ArrowLeft') setSize(of.getSize() + (e.key === 'ArrowRight' ? 16 : -16));
        else if (e.key === 'Enter') of.column.resetSize();
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
      data-tip="Drag it, or press the arrows, to widen; twice, or Enter, for its own width"
      className={clsx(
        'absolute inset-y-1.5 right-0 w-1.5 cursor-col-resize border-r hover:border-sea',
        of.column.getIsResizing() ? 'border-sea' : 'border-transparent',
      )}
    />
  );
}
