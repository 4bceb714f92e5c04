import { DateTime } from 'luxon';
import { z } from 'zod';
import { Duration, durationParts, workingMinutes } from './duration.ts';

/**
 * Working hours of a week: days as ISO weekdays (1 is Monday), minutes from local midnight, in one IANA zone.
 * Until service hours exist every desk keeps `deskHours`.
 */
export interface Calendar {
  zone: string;
  days: readonly number[];
  from: number;
  to: number;
}
export const deskHours = { days: [1, 2, 3, 4, 5], from: 8 * 60, to: 16 * 60 } as const;
export const deskCalendar = (zone: string): Calendar => ({ zone, ...deskHours });

/** A length of time, and which clock counts it: the desk's open hours, or every hour. */
export const Span = z.object({ length: Duration, counted: z.enum(['working', 'always']) });
export type Span = z.infer<typeof Span>;

const hours = (day: DateTime, calendar: Calendar): { opens: DateTime; closes: DateTime } | undefined => {
  if (!calendar.days.includes(day.weekday)) return undefined;
  // Wall-clock times: on the days the clocks change, the desk still opens at its hour.
  const at = (minute: number) => day.set({ hour: Math.floor(minute / 60), minute: minute % 60, second: 0, millisecond: 0 });
  return { opens: at(calendar.from), closes: at(calendar.to) };
};

/**
 * The instant `minutes` of open time after `start` (an ISO instant); the answer is an ISO instant in UTC.
 * Zero minutes gives `start` itself. Whole weeks are stepped over at once, so a year costs as little as a day.
 */
export function addWorking(start: string, minutes: number, calendar: Calendar): string {
  let now = DateTime.fromISO(start, { zone: calendar.zone });
  let left = minutes;
  if (left <= 0) return now.toUTC().toISO()!;
  const week = calendar.days.length * (calendar.to - calendar.from);
  const weeks = Math.floor((left - 1e-9) / week);
  // A week later at the same wall-clock time has seen each open hour once, as long as opening hours lie outside the hour that the clocks skip.
  if (weeks > 0) {
    now = now.plus({ weeks });
    left -= weeks * week;
  }
  for (let day = now.startOf('day'); ; day = day.plus({ days: 1 })) {
    const open = hours(day, calendar);
    if (!open || open.closes <= now) continue;
    const from = open.opens > now ? open.opens : now;
    const here = open.closes.diff(from).as('minutes');
    if (left <= here) return from.plus({ minutes: left }).toUTC().toISO()!;
    left -= here;
  }
}

/** Open minutes between two instants; 0 when the second is not later. */
export function workingBetween(from: string, to: string, calendar: Calendar): number {
  const a = DateTime.fromISO(from, { zone: calendar.zone });
  const b = DateTime.fromISO(to, { zone: calendar.zone });
  let minutes = 0;
  for (let day = a.startOf('day'); day < b; day = day.plus({ days: 1 })) {
    const open = hours(day, calendar);
    if (!open) continue;
    const start = open.opens > a ? open.opens : a;
    const end = open.closes < b ? open.closes : b;
    if (end > start) minutes += end.diff(start).as('minutes');
  }
  return minutes;
}

/** The instant a span after `start`; a day counted always is 24 hours. */
export function addSpan(start: string, span: Span, calendar: Calendar): string {
  if (span.counted === 'working') return addWorking(start, workingMinutes(span.length), calendar);
  const [weeks, days, hours, minutes, seconds] = durationParts(span.length) ?? [0, 0, 0, 0, 0];
  return DateTime.fromISO(start, { zone: 'utc' }).plus({ weeks, days, hours, minutes, seconds }).toISO()!;
}

/** When the desk opens on a date (YYYY-MM-DD), or the moment the date's working hours would open were it a working day. */
export function dateOpens(date: string, calendar: Calendar): string {
  const day = DateTime.fromISO(date, { zone: calendar.zone });
  return day
    .set({ hour: Math.floor(calendar.from / 60), minute: calendar.from % 60 })
    .toUTC()
    .toISO()!;
}

/** When the desk closes for the last time before the end of a date: what is due by that date is due then. */
export function dateCloses(date: string, calendar: Calendar): string {
  let day = DateTime.fromISO(date, { zone: calendar.zone });
  while (!calendar.days.includes(day.weekday)) day = day.minus({ days: 1 });
  return day
    .set({ hour: Math.floor(calendar.to / 60), minute: calendar.to % 60 })
    .toUTC()
    .toISO()!;
}

const units = { W: ['week', 'weeks'], D: ['day', 'days'], H: ['hour', 'hours'], M: ['minute', 'minutes'], S: ['second', 'seconds'] } as const;

/** A duration as written, in words: "5 working days", "5 minutes". */
export function spanWords(span: Span): string {
  const words = [...span.length.matchAll(/(\d+)([WDHMS])/g)].map(
    ([, n, u]) => `${n} ${span.counted === 'working' ? 'working ' : ''}${units[u as keyof typeof units][n === '1' ? 0 : 1]}`,
  );
  return words.join(' ');
}
