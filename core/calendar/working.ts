import { DateTime } from 'luxon';
import { z } from 'zod';
import { isDate, isInstant, isZone } from './date.ts';
import { Duration, durationParts } from './duration.ts';

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
/** The desk's week until service hours exist: ISO weekdays (1 Monday), minutes after midnight. */
export const deskHours = { days: [1, 2, 3, 4, 5], from: 8 * 60, to: 16 * 60 } as const;
/** The desk's hours in a zone; in UTC where this machine does not know the zone. */
export const deskCalendar = (zone: string): Calendar => ({ zone: isZone(zone) ? zone : 'utc', ...deskHours });

/** A length of time, and which clock counts it: the desk's open hours, or every hour. */
export const Span = z.object({ length: Duration, counted: z.enum(['working', 'always']) });
export type Span = z.infer<typeof Span>;

const hours = (day: DateTime, calendar: Calendar): { opens: DateTime; closes: DateTime } | undefined => {
  if (!calendar.days.includes(day.weekday)) return undefined;
  // Wall-clock times: on the days the clocks change, the desk still opens at its hour.
  const at = (minute: number) => day.set({ hour: Math.floor(minute / 60), minute: minute % 60, second: 0, millisecond: 0 });
  return { opens: at(calendar.from), closes: at(calendar.to) };
};

/** More minutes than ten years of hours round the clock; asked for more, the arithmetic refuses. */
const mostMinutes = 3660 * 1440;

/** Open minutes of a week. A calendar that is never open has no arithmetic. */
function weekOf(calendar: Calendar): number {
  const week = calendar.days.length * (calendar.to - calendar.from);
  if (!(week > 0)) throw new RangeError('These working hours are never open.');
  return week;
}

function instant(iso: string, calendar: Calendar): DateTime<true> {
  const at = DateTime.fromISO(iso, { zone: calendar.zone });
  if (!isInstant(iso) || !at.isValid) throw new RangeError(`“${iso.slice(0, 40)}” is not a moment from 1900 to 2199, or the zone is not known.`);
  return at;
}

/**
 * The instant `minutes` of open time after `start` (an ISO instant); the answer is an ISO instant in UTC.
 * Zero minutes gives `start` itself. Whole weeks are stepped over at once, so a year costs as little as a day.
 * Throws a RangeError for what is no moment, no number of minutes up to ten years, or never open; so it always returns.
 */
export function addWorking(start: string, minutes: number, calendar: Calendar): string {
  let now = instant(start, calendar);
  if (!(minutes <= mostMinutes)) throw new RangeError(`${minutes} is not a number of minutes up to ten years.`);
  let left = minutes;
  if (left <= 0) return now.toUTC().toISO();
  const week = weekOf(calendar);
  const weeks = Math.floor((left - 1e-9) / week);
  // A week later at the same wall-clock time has seen each open hour once, as long as opening hours lie outside the hour that the clocks skip.
  if (weeks > 0) {
    now = now.plus({ weeks });
    left -= weeks * week;
  }
  // What is left is at most a week of hours: two weeks of days hold it.
  let day = now.startOf('day');
  for (let n = 0; n < 15; n++, day = day.plus({ days: 1 })) {
    const open = hours(day, calendar);
    if (!open || open.closes <= now) continue;
    const from = open.opens > now ? open.opens : now;
    const here = open.closes.diff(from).as('minutes');
    if (left <= here) return from.plus({ minutes: left }).toUTC().toISO()!;
    left -= here;
  }
  throw new RangeError('These working hours do not hold what their week promises.');
}

/** Open minutes between two instants; 0 when the second is not later. Whole weeks are counted at once. */
export function workingBetween(from: string, to: string, calendar: Calendar): number {
  let a = instant(from, calendar);
  const b = instant(to, calendar);
  if (b <= a) return 0;
  const weeks = Math.floor(b.diff(a, 'weeks').weeks);
  let minutes = weeks * weekOf(calendar);
  a = a.plus({ weeks });
  for (let day = a.startOf('day'); day < b; day = day.plus({ days: 1 })) {
    const open = hours(day, calendar);
    if (!open) continue;
    const start = open.opens > a ? open.opens : a;
    const end = open.closes < b ? open.closes : b;
    if (end > start) minutes += end.diff(start).as('minutes');
  }
  return minutes;
}

/** The instant a duration after `start`, counted round the clock: a day is 24 hours. Throws a RangeError on what is no duration. */
export function addAlways(start: string, length: string): string {
  const parts = durationParts(length);
  if (!parts) throw new RangeError(`“${length.slice(0, 40)}” is not a duration.`);
  const [weeks, days, hours, minutes, seconds] = parts;
  return DateTime.fromISO(start, { zone: 'utc' }).plus({ weeks, days, hours, minutes, seconds }).toISO()!;
}

/** The moment a number of minutes after midnight on a date; undefined when there is no such date. */
function onDate(date: string, minute: number, calendar: Calendar): DateTime | undefined {
  if (!isDate(date)) return undefined;
  return DateTime.fromISO(date, { zone: calendar.zone }).set({ hour: Math.floor(minute / 60), minute: minute % 60 });
}

/** When the desk opens on a date (YYYY-MM-DD), or would open were it a working day; undefined when there is no such date. */
export const dateOpens = (date: string, calendar: Calendar): string | undefined =>
  onDate(date, calendar.from, calendar)?.toUTC().toISO() ?? undefined;

/** When the desk closes for the last time before the end of a date: what is due by that date is due then. Undefined when there is no such date. */
export function dateCloses(date: string, calendar: Calendar): string | undefined {
  let closes = onDate(date, calendar.to, calendar);
  for (let n = 0; closes && n < 7 && !calendar.days.includes(closes.weekday); n++) closes = closes.minus({ days: 1 });
  return closes?.toUTC().toISO() ?? undefined;
}

/** The working day that is so many working days before a date; a date on which nobody works counts from the one after it. Undefined when there is no such date. */
export function workingDaysBefore(date: string, days: number, calendar: Calendar): string | undefined {
  let day = onDate(date, 12 * 60, calendar);
  if (!day || calendar.days.length === 0) return undefined;
  for (let left = days; left > 0;) {
    day = day.minus({ days: 1 });
    if (calendar.days.includes(day.weekday)) left--;
  }
  return day.toISODate() ?? undefined;
}

/** The day so many days after a date: working days of this calendar, or days as they come. Undefined when there is no such date. */
export function dayAfter(date: string, days: number, counted: Span['counted'], calendar: Calendar): string | undefined {
  let day = onDate(date, 12 * 60, calendar);
  if (!day || (counted === 'working' && calendar.days.length === 0)) return undefined;
  if (counted === 'always') return day.plus({ days }).toISODate() ?? undefined;
  for (let left = days; left > 0;) {
    day = day.plus({ days: 1 });
    if (calendar.days.includes(day.weekday)) left--;
  }
  return day.toISODate() ?? undefined;
}

/** The instant at which it is so late on a day in a zone; an invalid Date where there is no such day or time. A time that a clock change skips is moved on by it. */
export function instantIn(day: string, time: string, zone: string): Date {
  if (!isDate(day) || !/^([01]\d|2[0-3]):[0-5]\d$/.test(time)) return new Date(NaN);
  return DateTime.fromISO(`${day}T${time}`, { zone }).toJSDate();
}

/** The day of an instant in a zone, YYYY-MM-DD. */
export const dayOf = (at: string, zone: string): string => DateTime.fromISO(at, { zone }).toISODate() ?? at.slice(0, 10);

const units = { W: ['week', 'weeks'], D: ['day', 'days'], H: ['hour', 'hours'], M: ['minute', 'minutes'], S: ['second', 'seconds'] } as const;

/** A duration as written, in words: "5 working days", "5 minutes". */
export function spanWords(span: Span): string {
  const words = [...span.length.matchAll(/(\d+)([WDHMS])/g)].map(
    ([, n, u]) => `${n} ${span.counted === 'working' ? 'working ' : ''}${units[u as keyof typeof units][n === '1' ? 0 : 1]}`,
  );
  return words.join(' ');
}
