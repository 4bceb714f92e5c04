import { clsx } from 'clsx';
import { memo, useId, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { dayHoursWords, joined, wallDay, type Stretch } from '../../core/calendar/index.ts';

/** A quarter of an hour is the least that is painted. */
const quarter = 15;
const quarters = wallDay / quarter;
const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const clock = (q: number) => `${String(Math.floor((q * quarter) / 60)).padStart(2, '0')}:${String((q * quarter) % 60).padStart(2, '0')}`;

interface Spot {
  day: number;
  quarter: number;
}

const isOpen = (stretches: readonly Stretch[], q: number): boolean => stretches.some((s) => s.from <= q * quarter && q * quarter < s.to);

/** A day with some quarters opened, or closed. */
function painted(stretches: readonly Stretch[], from: number, to: number, open: boolean): Stretch[] {
  const [begins, ends] = [from * quarter, (to + 1) * quarter];
  const rest = stretches.flatMap((s): Stretch[] => [
    ...(s.from < begins ? [{ from: s.from, to: Math.min(s.to, begins) }] : []),
    ...(s.to > ends ? [{ from: Math.max(s.from, ends), to: s.to }] : []),
  ]);
  return joined(open ? [...rest, { from: begins, to: ends }] : rest);
}

/**
 * A week that hours are painted on: a line a day, a cell a quarter of an hour (the grid pattern of WAI-ARIA, one tab stop). Drawing over
 * cells opens them, or closes them where the first was open; arrows go, Shift and arrows take a block, Space opens or closes it.
 */
export function WeekPaint({ week, onChange }: { week: readonly (readonly Stretch[])[]; onChange: (week: Stretch[][]) => void }) {
  const id = useId();
  const [at, setAt] = useState<Spot>({ day: 0, quarter: 32 });
  const [from, setFrom] = useState<Spot>({ day: 0, quarter: 32 });
  /** What drawing does: open or close. */
  const [drawing, setDrawing] = useState<boolean>();
  const grid = useRef<HTMLDivElement>(null);
  const block = {
    top: Math.min(at.day, from.day),
    bottom: Math.max(at.day, from.day),
    left: Math.min(at.quarter, from.quarter),
    right: Math.max(at.quarter, from.quarter),
  };
  const paint = (open: boolean, of = block) =>
    onChange(week.map((d, n) => (n >= of.top && n <= of.bottom ? painted(d, of.left, of.right, open) : [...d])));
  const shown =
    drawing === undefined ? week : week.map((d, n) => (n >= block.top && n <= block.bottom ? painted(d, block.left, block.right, drawing) : d));

  const onKeyDown = (e: KeyboardEvent) => {
    const far = e.ctrlKey || e.metaKey ? 4 : 1;
    const to: Record<string, Spot> = {
      ArrowLeft: { ...at, quarter: at.quarter - far },
      ArrowRight: { ...at, quarter: at.quarter + far },
      ArrowUp: { ...at, day: at.day - 1 },
      ArrowDown: { ...at, day: at.day + 1 },
      Home: { ...at, quarter: 0 },
      End: { ...at, quarter: quarters - 1 },
    };
    const next = to[e.key];
    if (next) {
      const spot = { day: Math.max(0, Math.min(6, next.day)), quarter: Math.max(0, Math.min(quarters - 1, next.quarter)) };
      setAt(spot);
      if (!e.shiftKey) setFrom(spot);
    } else if (e.key === ' ') paint(!isOpen(week[from.day] ?? [], from.quarter));
    else return;
    e.preventDefault();
  };
  const spotAt = (e: PointerEvent): Spot | undefined => {
    const [, day, q] = /-(\d)-(\d+)$/.exec((e.target as HTMLElement).closest('[role=gridcell]')?.id ?? '') ?? [];
    return day === undefined ? undefined : { day: Number(day), quarter: Number(q) };
  };
  return (
    <div>
      <div className="ml-24 flex text-xs text-faint" aria-hidden>
        {Array.from({ length: 9 }, (_, n) => (
          <span key={n} className="numbers" style={{ width: n < 8 ? 12 * 5 : 0 }}>
            {n * 3}
          </span>
        ))}
      </div>
      <div
        ref={grid}
        role="grid"
        aria-label="The week"
        aria-multiselectable
        aria-activedescendant={`${id}-${at.day}-${at.quarter}`}
        tabIndex={0}
        className="group w-max touch-none outline-none select-none focus-visible:outline-2 focus-visible:outline-sea"
        onKeyDown={onKeyDown}
        onPointerDown={(e) => {
          const spot = spotAt(e);
          if (!spot || e.button !== 0) return;
          grid.current?.focus({ preventScroll: true });
          setFrom(spot);
          setAt(spot);
          setDrawing(!isOpen(week[spot.day] ?? [], spot.quarter));
        }}
        onPointerMove={(e) => {
          const spot = drawing === undefined ? undefined : spotAt(e);
          if (spot && (spot.day !== at.day || spot.quarter !== at.quarter)) setAt(spot);
        }}
        onPointerUp={() => {
          if (drawing !== undefined) paint(drawing);
          setDrawing(undefined);
        }}
        onPointerCancel={() => setDrawing(undefined)}
        onPointerLeave={() => {
          if (drawing !== undefined) paint(drawing);
          setDrawing(undefined);
        }}
      >
        {shown.map((stretches, day) => (
          <DayLine
            key={day}
            id={`${id}-${day}`}
            day={day}
            open={JSON.stringify(stretches)}
            from={day >= block.top && day <= block.bottom ? block.left : undefined}
            to={day >= block.top && day <= block.bottom ? block.right : undefined}
            cursor={day === at.day ? at.quarter : undefined}
          />
        ))}
      </div>
    </div>
  );
}

const DayLine = memo(function DayLine({
  id,
  day,
  open,
  from,
  to,
  cursor,
}: {
  id: string;
  day: number;
  /** Its stretches, as JSON, so that a day that is the same is not drawn anew. */
  open: string;
  from: number | undefined;
  to: number | undefined;
  /** The quarter that the keyboard is on, where it is in this day. */
  cursor: number | undefined;
}) {
  const stretches = JSON.parse(open) as Stretch[];
  return (
    <div role="row" className="flex h-6 items-stretch border-b last:border-b-0">
      <span role="rowheader" className="w-24 pt-0.5 text-sm">
        {days[day]}
        <span className="sr-only">, {dayHoursWords(stretches)}</span>
      </span>
      {Array.from({ length: quarters }, (_, q) => {
        const here = isOpen(stretches, q);
        const taken = from !== undefined && q >= from && q <= to!;
        return (
          <span
            key={q}
            id={`${id}-${q}`}
            role="gridcell"
            aria-selected={taken}
            aria-label={`${days[day]} ${clock(q)}, ${here ? 'open' : 'closed'}`}
            className={clsx(
              'w-[5px] cursor-crosshair',
              q % 4 === 0 && 'border-l',
              q === quarters - 1 && 'border-r',
              q === cursor && 'relative z-10 group-focus-visible:outline-2 group-focus-visible:outline-ochre',
              here ? (taken ? 'bg-sea brightness-125' : 'bg-sea') : taken ? 'bg-sea-wash' : '',
            )}
          />
        );
      })}
    </div>
  );
});
