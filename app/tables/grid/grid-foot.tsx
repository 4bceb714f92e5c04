import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { Select } from '~/ui/select';
import type { Standing } from './use-grid';

/** How a grid stands, and how it takes what is typed. */
export function GridFoot({
  standing,
  ready,
  wrong,
  left,
  take,
  onTake,
  frozen,
  mostFrozen,
  onFrozen,
  beside,
}: {
  standing: Standing;
  /** Whether the rows have been read. */
  ready: boolean;
  /** Cells that are refused. */
  wrong: number;
  /** Rows that are new and not whole. */
  left: number;
  take: 'rest' | 'all';
  onTake: (take: 'rest' | 'all') => void;
  /** So many columns stay in sight. */
  frozen: number;
  mostFrozen: number;
  onFrozen: (columns: number) => void;
  beside: ReactNode;
}) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1.5 text-sm text-faint">
      <span role="status" className={clsx(wrong > 0 || standing.is === 'unreachable' || standing.is === 'refused' ? 'text-coral' : undefined)}>
        {'sentence' in standing
          ? standing.sentence
          : wrong > 0
            ? `${wrong === 1 ? 'One cell is' : `${wrong} cells are`} refused${take === 'all' ? '; nothing goes in until it is put right' : ''}.`
            : left > 0
              ? `${left === 1 ? 'One row is' : `${left} rows are`} not whole yet.`
              : { reading: 'Reading …', keeping: 'Keeping …', kept: 'Everything is kept.' }[standing.is]}
      </span>
      <label className="flex items-center gap-2">
        Where a cell is refused
        <span className="w-40">
          <Select aria-label="Where a cell is refused" value={take} onValue={(v) => onTake(v as typeof take)}>
            <option value="rest">the rest goes in</option>
            <option value="all">nothing goes in</option>
          </Select>
        </span>
      </label>
      <label className="flex items-center gap-2">
        Columns that stay in sight
        <span className="w-20">
          <Select aria-label="Columns that stay in sight" value={String(frozen)} onValue={(v) => onFrozen(Number(v))}>
            {Array.from({ length: mostFrozen }, (_, n) => (
              <option key={n} value={String(n)}>
                {String(n)}
              </option>
            ))}
          </Select>
        </span>
      </label>
      {beside && <span className="ml-auto">{beside}</span>}
      {/* The keys count once the rows have been read; before that nothing is promised. */}
      <span className={clsx('basis-full text-xs', !ready && 'invisible')}>
        F2 edits · Ctrl D fills down · Shift Delete takes rows off · Alt ↑ ↓ sorts · Alt ← → widens · Ctrl Enter opens the row
      </span>
    </div>
  );
}
