import type { Header } from '@tanstack/react-table';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { Link } from 'react-router';
import { writeAsked, type ListAsked, type ListShape } from '../../../core/lists/index.ts';
import { addressOf } from './address';
import type { features } from './table';

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
              {resizes && (
                <span
                  aria-hidden
                  onMouseDown={h.getResizeHandler()}
                  onTouchStart={h.getResizeHandler()}
                  onDoubleClick={() => h.column.resetSize()}
                  title="Drag to widen; twice for its own width"
                  className={clsx(
                    'absolute inset-y-1.5 right-0 w-1.5 cursor-col-resize border-r hover:border-sea',
                    h.column.getIsResizing() ? 'border-sea' : 'border-transparent',
                  )}
                />
              )}
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
