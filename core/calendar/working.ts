import { DateTime } from 'luxon';
import { z } from 'zod';
import { isDate, isInstant } from './date.ts';
import type { Calendar, Year } from './compiled.ts';
import { wallDay } from './service-hours.ts';
import { Duration, durationParts, secondsOf, workingMinutes } from './duration.ts';

/** A length of time, and which clock counts it: the desk's open hours, or every hour. */
export const Span = z.object({ length: Duration, counted: z.enum(['working', 'always']) });
export type Span = z.infer<typeof Span>;

/** More minutes than ten years of hours round the clock; asked for more, the arithmetic refuses. */
const mostMinutes = 3660 * 1440;
/** No hours are looked at beyond this year: what is not open until then never is. */
const lastYear = 2300;

function instant(iso: string): number {
  if (!isInstant(iso)) throw new RangeError(`“${iso.slice(0, 40)}” is not a moment from 1900 to 2199.`);
  return Date.parse(iso);
}

/** The year of the calendar that a moment lies in. */
function yearOfMoment(at: number, calendar: Calendar): number {
  // A year is 365.2425 days long on the average; the one before or after is looked at where that is not enough.
  const year = 1970 + Math.floor(at / 31_556_952_000);
  const { begins, ends } = calendar.year(year);
  return at < begins ? year - 1 : at >= ends ? year + 1 : year;
}

/** How many of ordered numbers are at most this one. */
function upTo(numbers: Float64Array, most: number): number {
  let low = 0;
  for (let high = numbers.length; low < high;) {
    const middle = (low + high) >> 1;
    if (numbers[middle]! <= most) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** What is open in a year before a moment of it, in milliseconds. */
function openBefore(year: Year, at: number): number {
  const i = upTo(year.opens, at) - 1;
  return i < 0 ? 0 : year.before[i]! + Math.min(at, year.closes[i]!) - year.opens[i]!;
}
const openIn = (year: Year): number => year.before[year.before.length - 1]!;

const iso = (at: number): string => new Date(at).toISOString();

function lengthOf(minutes: number, calendar: Calendar): number {
  if (!(minutes <= mostMinutes)) throw new RangeError(`${minutes} is not a number of minutes up to ten years.`);
  if (minutes > 0 && !calendar.everOpen) throw new RangeError('These working hours are never open.');
  return Math.round(minutes * 60_000);
}

/**
 * The instant `minutes` of open time after `start` (an ISO instant), to the millisecond; the answer is an ISO instant in UTC.
 * Zero minutes gives `start` itself; time that is used up at a close has passed then, not at the next opening.
 * Throws a RangeError for what is no moment, no number of minutes up to ten years, or never open; so it always returns.
 */
export const addWorking = (start: string, minutes: number, calendar: Calendar): string =>
  iso(afterWorking(instant(start), lengthOf(minutes, calendar), calendar));

/** The same in milliseconds since 1970, for many questions: `length` are milliseconds of open time. */
export function afterWorking(at: number, length: number, calendar: Calendar): number {
  if (length <= 0) return at;
  let n = yearOfMoment(at, calendar);
  let left = length + openBefore(calendar.year(n), at);
  for (; n < lastYear; n++) {
    const year = calendar.year(n);
    if (left <= openIn(year)) {
      // The first stretch at whose end so much has been open.
      const i = Math.min(upTo(year.before, left - 1), year.opens.length) - 1;
      return year.opens[i]! + left - year.before[i]!;
    }
    left -= openIn(year);
  }
  throw new RangeError('These working hours are never open for so long.');
}

/** The last instant after which, until `end`, so many minutes are open: how much earlier something has to begin. Throws as `addWorking` does. */
export function takeWorking(end: string, minutes: number, calendar: Calendar): string {
  const at = instant(end);
  const length = lengthOf(minutes, calendar);
  if (length <= 0) return iso(at);
  let n = yearOfMoment(at, calendar);
  let left = openBefore(calendar.year(n), at) - length;
  for (; n > 1890; n--) {
    const year = calendar.year(n);
    if (left >= 0 && openIn(year) > left) {
      const i = Math.min(upTo(year.before, left), year.opens.length) - 1;
      return iso(year.opens[i]! + left - year.before[i]!);
    }
    left += openIn(calendar.year(n - 1));
  }
  throw new RangeError('These working hours were never open for so long.');
}

/** Open minutes between two instants; 0 when the second is not later. */
export function workingBetween(from: string, to: string, calendar: Calendar): number {
  return openBetween(instant(from), instant(to), calendar) / 60_000;
}

/** The same of two moments in milliseconds since 1970, in milliseconds. */
export function openBetween(a: number, b: number, calendar: Calendar): number {
  if (b <= a) return 0;
  const [first, last] = [yearOfMoment(a, calendar), yearOfMoment(b, calendar)];
  let open = openBefore(calendar.year(last), b) - openBefore(calendar.year(first), a);
  for (let n = first; n < last; n++) open += openIn(calendar.year(n));
  return open;
}

/** A stretch of time that does not count; one without an end goes on. */
export interface Held {
  from: string;
  to?: string | undefined;
}

/** Held stretches in order, those that touch or overlap as one, and none that is empty. */
function heldInOrder(held: readonly Held[]): { from: number; to: number }[] {
  const found: { from: number; to: number }[] = [];
  const all = held.map((h) => ({ from: instant(h.from), to: h.to === undefined ? Infinity : instant(h.to) })).filter((h) => h.from < h.to);
  for (const h of all.toSorted((a, b) => a.from - b.from)) {
    const last = found.at(-1);
    if (last && h.from <= last.to) last.to = Math.max(last.to, h.to);
    else found.push(h);
  }
  return found;
}

/** Open minutes between two instants less those that are held, each counted once however they overlap. */
export function workingLess(from: string, to: string, held: readonly Held[], calendar: Calendar): number {
  const [a, b] = [instant(from), instant(to)];
  const away = heldInOrder(held).reduce((sum, h) => {
    const [begins, ends] = [Math.max(a, h.from), Math.min(b, h.to)];
    return begins < ends ? sum + workingBetween(iso(begins), iso(ends), calendar) : sum;
  }, 0);
  return Math.max(0, workingBetween(from, to, calendar) - away);
}

/** The instant at which so many open minutes that are not held have passed since `start`; undefined while a hold without an end stands before it. */
export function addWorkingLess(start: string, minutes: number, held: readonly Held[], calendar: Calendar): string | undefined {
  let at = instant(start);
  let left = minutes;
  for (const h of heldInOrder(held)) {
    if (h.to <= at) continue;
    const until = Math.max(at, h.from);
    const here = workingBetween(iso(at), iso(until), calendar);
    if (left <= here) return addWorking(iso(at), left, calendar);
    if (h.to === Infinity) return undefined;
    left -= here;
    at = h.to;
  }
  return addWorking(iso(at), left, calendar);
}

/** The instant a duration after `start`, counted round the clock: a day is 24 hours. Throws a RangeError on what is no duration. */
export function addAlways(start: string, length: string): string {
  const parts = durationParts(length);
  if (!parts) throw new RangeError(`“${length.slice(0, 40)}” is not a duration.`);
  const [weeks, days, hours, minutes, seconds] = parts;
  return DateTime.fromISO(start, { zone: 'utc' }).plus({ weeks, days, hours, minutes, seconds }).toISO()!;
}

/** The moment a number of minutes after midnight on a date, on the clock on the wall. */
function onDate(date: string, minute: number, zone: string): string {
  const day = DateTime.fromISO(date, { zone });
  const at = minute === wallDay ? day.plus({ days: 1 }) : day.set({ hour: Math.floor(minute / 60), minute: minute % 60 });
  return at.toUTC().toISO() ?? '';
}

/** More days in a row than this nobody looks for one that is open. */
const mostClosed = 3700;

/** The date so many days later. */
const later = (date: string, days: number): string => new Date(Date.parse(`${date}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);

/** When the desk opens on a date (YYYY-MM-DD), or would open were it a working day; undefined when there is no such date. */
export const dateOpens = (date: string, calendar: Calendar): string | undefined =>
  isDate(date) ? onDate(date, calendar.on(date)[0]?.from ?? calendar.usualOpening, calendar.zone) : undefined;

/** When the desk closes for the last time before the end of a date: what is due by that date is due then. Undefined when there is no such date. */
export function dateCloses(date: string, calendar: Calendar): string | undefined {
  if (!isDate(date)) return undefined;
  for (let n = 0; n < mostClosed; n++) {
    const last = calendar.on(later(date, -n)).at(-1);
    if (last) return onDate(later(date, -n), last.to, calendar.zone);
  }
  return onDate(date, calendar.usualClosing, calendar.zone);
}

/** The working day that is so many working days before a date; a date on which nobody works counts from the one after it. Undefined when there is no such date. */
export const workingDaysBefore = (date: string, days: number, calendar: Calendar): string | undefined => workingDaysFrom(date, days, -1, calendar);

/** The day so many days after a date: working days of this calendar, or days as they come. Undefined when there is no such date. */
export function dayAfter(date: string, days: number, counted: Span['counted'], calendar: Calendar): string | undefined {
  if (counted === 'working') return workingDaysFrom(date, days, 1, calendar);
  return isDate(date) ? later(date, days) : undefined;
}

function workingDaysFrom(date: string, days: number, step: 1 | -1, calendar: Calendar): string | undefined {
  if (!isDate(date) || !calendar.everOpen) return undefined;
  let day = date;
  let closed = 0;
  for (let left = days; left > 0;) {
    day = later(day, step);
    if (calendar.on(day).length > 0) {
      left--;
      closed = 0;
    } else if (++closed > mostClosed) return undefined;
  }
  return day;
}

/** The instant at which it is so late on a day in a zone; an invalid Date where there is no such day or time. A time that a clock change skips is moved on by it. */
export function instantIn(day: string, time: string, zone: string): Date {
  if (!isDate(day) || !/^([01]\d|2[0-3]):[0-5]\d$/.test(time)) return new Date(NaN);
  return DateTime.fromISO(`${day}T${time}`, { zone }).toJSDate();
}

/** The day of an instant in a zone, YYYY-MM-DD. */
export const dayOf = (at: string, zone: string): string => DateTime.fromISO(at, { zone }).toISODate() ?? at.slice(0, 10);

const units = { W: ['week', 'weeks'], D: ['day', 'days'], H: ['hour', 'hours'], M: ['minute', 'minutes'], S: ['second', 'seconds'] } as const;

/** How many seconds a span lasts at least, whenever it begins: a working day may be over within the hours of one. */
export const leastSeconds = ({ length, counted }: Span): number => (counted === 'working' ? workingMinutes(length) * 60 : secondsOf(length));

/** A duration as written, in words: "5 working days", "5 minutes". */
export function spanWords(span: Span): string {
  const words = [...span.length.matchAll(/(\d+)([WDHMS])/g)].map(
    ([, n, u]) => `${n} ${span.counted === 'working' ? 'working ' : ''}${units[u as keyof typeof units][n === '1' ? 0 : 1]}`,
  );
  return words.join(' ');
}
