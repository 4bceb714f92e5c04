import { minutesWords } from '../../core/calendar/index.ts';
import { sheet, type SheetLayout } from '../../core/plans/index.ts';

/** Expected working time from left to right; minutes stretch, days compress. */
export function Ruler({ layout }: { layout: SheetLayout }) {
  return (
    <svg aria-hidden className="pointer-events-none absolute inset-0 overflow-visible" width={layout.width + 140} height={layout.height}>
      <line x1={0} x2={layout.width + 140} y1={sheet.head - 4} y2={sheet.head - 4} stroke="var(--ink)" strokeWidth="1" />
      {layout.ruler.map((t) => (
        <g key={t.minutes}>
          <line x1={t.x} x2={t.x} y1={sheet.head - 9} y2={layout.height} stroke="var(--rule)" strokeDasharray="1 3" />
          <line x1={t.x} x2={t.x} y1={sheet.head - 9} y2={sheet.head - 4} stroke="var(--ink)" />
          <text x={t.x + 4} y={sheet.head - 10} className="numbers" fontSize="11" fill="var(--faint)">
            {t.minutes === 0 ? 'asked' : minutesWords(t.minutes)}
          </text>
        </g>
      ))}
    </svg>
  );
}
