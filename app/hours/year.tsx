import { clsx } from 'clsx';
import { dateWords, type ServiceHours } from '../../core/calendar/index.ts';

const months = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const pad = (n: number) => String(n).padStart(2, '0');
const daysIn = (year: number, month: number) => new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
/** 0 is Monday. */
const firstWeekday = (year: number, month: number) => (new Date(Date.UTC(year, month, 1)).getUTCDay() + 6) % 7;

/**
 * A year at a glance, as a picture: holidays, days with hours of their own, and days of the week that are closed. Pressed by the mouse a day
 * becomes a holiday, or is none any more; the list beside it says and does the same by keys.
 */
export function Year({ year, hours, onToggle }: { year: number; hours: ServiceHours; onToggle: (day: string) => void }) {
  const holidays = new Map(hours.holidays.map((h) => [h.day, h.words]));
  const own = new Map(hours.exceptions.map((e) => [e.day, e.words]));
  return (
    <div
      aria-hidden
      className="grid grid-cols-3 gap-x-2.5 gap-y-2"
      onClick={(e) => {
        const day = (e.target as HTMLElement).dataset['day'];
        if (day) onToggle(day);
      }}
    >
      {months.map((name, month) => (
        <div key={name}>
          <p className="text-xs font-medium">{name}</p>
          <div className="grid grid-cols-7">
            {Array.from({ length: firstWeekday(year, month) }, (_, n) => (
              <span key={`before ${n}`} />
            ))}
            {Array.from({ length: daysIn(year, month) }, (_, n) => {
              const day = `${year}-${pad(month + 1)}-${pad(n + 1)}`;
              const holiday = holidays.get(day);
              const closed = (hours.week[(firstWeekday(year, month) + n) % 7] ?? []).length === 0;
              const words = holiday !== undefined ? `holiday${holiday ? `: ${holiday}` : ''}` : own.has(day) ? `its own hours: ${own.get(day)}` : '';
              return (
                <span
                  key={day}
                  data-day={day}
                  data-tip={words ? `${dateWords(day)}, ${words}` : undefined}
                  className={clsx(
                    'h-4 cursor-pointer text-center text-[10px]/4 tracking-tighter tabular-nums',
                    holiday !== undefined
                      ? 'bg-ochre-wash font-semibold text-ochre underline'
                      : own.has(day)
                        ? 'bg-sea-wash font-semibold text-sea'
                        : closed
                          ? 'text-faint'
                          : '',
                  )}
                >
                  {n + 1}
                </span>
              );
            })}
          </div>
        </div>
      ))}
    </div>
  );
}
