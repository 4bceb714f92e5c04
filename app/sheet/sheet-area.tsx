import { Plus } from 'lucide-react';
import { sheet, type Area, type Flow } from '../../core/plans/index.ts';

/** The rows of one block: a row a party, with its name standing at the left edge however far the sheet is scrolled. */
export function SheetArea({ area, first, empty, onInsert }: { area: Area; first: boolean; empty: boolean; onInsert: () => void }) {
  // The bracket of a band stands left of its names.
  const inset = first ? 0 : 10;
  return (
    <>
      <svg aria-hidden className="pointer-events-none absolute inset-0 overflow-visible" width="1" height="1">
        {area.from && (
          <path d={`M${area.from.x + 6} ${area.from.y} V${area.y + 14} H${area.x + 8}`} fill="none" stroke="var(--faint)" strokeWidth="1.2" />
        )}
        {area.from && bracketed.has(area.from.flow) && <Bracket area={area} rounds={area.from.flow === 'rounds'} />}
        {area.rows.map((r, i) => (
          <line
            key={r.party}
            x1={area.x}
            x2={area.x + area.width}
            y1={r.y + sheet.row}
            y2={r.y + sheet.row}
            stroke={i === area.rows.length - 1 ? 'var(--faint)' : 'var(--rule)'}
            strokeWidth="1"
          />
        ))}
        {!first && <line x1={area.x} x2={area.x + area.width} y1={area.y + sheet.head} y2={area.y + sheet.head} stroke="var(--rule)" />}
      </svg>
      {!first && (
        <p className="absolute truncate text-sm" style={{ left: area.x + 12, top: area.y + 4, maxWidth: Math.max(area.width, 360) }}>
          {area.label}
        </p>
      )}
      {area.rows.map((r) => (
        <div
          key={r.party}
          className="pointer-events-none absolute z-10"
          style={{ left: area.x + inset, top: r.y + 1, width: area.width - inset, height: sheet.row - 2 }}
        >
          <p
            className="sticky left-0 flex h-full items-center bg-sheet pr-1 text-sm text-faint"
            style={{ width: sheet.gutter - 12 - inset, paddingLeft: first ? 16 : 12 - inset }}
          >
            <span className="line-clamp-2" title={r.party}>
              {r.party}
            </span>
          </p>
        </div>
      ))}
      {empty && (
        <button
          type="button"
          onClick={onInsert}
          className="absolute flex h-7 items-center gap-1 rounded border border-dashed border-faint px-2 text-sm text-sea hover:bg-sea-wash"
          style={{ left: area.x + sheet.gutter, top: (area.rows[0]?.y ?? area.y) + 8 }}
        >
          <Plus size={13} aria-hidden /> First step {first ? 'of the plan' : `of “${area.label}”`}
        </button>
      )}
    </>
  );
}

/** Branches side by side, and what is done again, stand in brackets. */
const bracketed = new Set<Flow['is']>(['beside', 'rounds']);

function Bracket({ area, rounds }: { area: Area; rounds: boolean }) {
  const [left, right, top, foot] = [area.x + 2, area.x + area.width - 2, area.y + 4, area.y + area.height];
  return (
    <>
      <path d={`M${left + 6} ${top} H${left} V${foot} H${left + 6}`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      {rounds && <path d={`M${right - 6} ${top} H${right} V${foot} H${right - 6}`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />}
    </>
  );
}
