import type { Calendar } from './compiled.ts';
import { addWorking, dateCloses, dateOpens, workingDaysBefore } from './working.ts';

/** Whose hours count: those of a team where it has its own, else the desk's in a zone (IANA). */
export interface Hours {
  zone: string;
  team?: string;
}

/** An instant that depends on somebody's hours: so many working minutes after another, or when a day (YYYY-MM-DD) opens or closes, or the working day that is so many before it. */
export type WantedInstant = { hours: Hours } & (
  { from: string; minutes: number } | { day: string; edge: 'opens' | 'closes'; workingDaysBefore?: number }
);

/** The instant that is wanted, in UTC (ISO 8601), by these hours; null where there is no such day. Throws as `addWorking` does. */
export function reckon(wanted: WantedInstant, calendar: Calendar): string | null {
  if ('minutes' in wanted) return addWorking(wanted.from, wanted.minutes, calendar);
  const day = wanted.workingDaysBefore === undefined ? wanted.day : workingDaysBefore(wanted.day, wanted.workingDaysBefore, calendar);
  if (day === undefined) return null;
  return (wanted.edge === 'opens' ? dateOpens(day, calendar) : dateCloses(day, calendar)) ?? null;
}
