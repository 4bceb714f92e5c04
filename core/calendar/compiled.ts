import { DateTime, FixedOffsetZone, IANAZone } from 'luxon';
import { isZone } from './date.ts';
import { joined, usualHours, wallDay, type ServiceHours, type Stretch } from './service-hours.ts';

/**
 * Service hours made ready for arithmetic: for each year the open stretches as instants with what is open before each, made when it is
 * first asked for. A question is a search in one or two of them.
 */
export interface Calendar {
  zone: string;
  /** The open stretches of a date (YYYY-MM-DD), as minutes on the clock on the wall. */
  on: (date: string) => readonly Stretch[];
  /** Minutes after midnight at which it would open on a day on which it is closed. */
  usualOpening: number;
  /** Minutes after midnight at which it would close on such a day. */
  usualClosing: number;
  /** Whether any day is ever open. */
  everOpen: boolean;
  year: (year: number) => Year;
}

/** The open stretches of a year of a zone, in milliseconds since 1970. */
export interface Year {
  /** The first moment of it, and of the next. */
  begins: number;
  ends: number;
  opens: Float64Array;
  closes: Float64Array;
  /** What is open in the year before each stretch; at the end what is open in all of it. */
  before: Float64Array;
}

const isoDate = (year: number, dayOfYear: number): string => new Date(Date.UTC(year, 0, dayOfYear)).toISOString().slice(0, 10);
const weekdayOf = (date: string): number => (new Date(`${date}T00:00:00Z`).getUTCDay() + 6) % 7;
const isLeap = (year: number): boolean => new Date(Date.UTC(year, 1, 29)).getUTCMonth() === 1;

/** Makes service hours ready for arithmetic; in UTC where this machine does not know their zone. */
export function compileHours(hours: ServiceHours): Calendar {
  const zone = isZone(hours.zone) ? hours.zone : 'utc';
  const week = hours.week.map(joined);
  const special = new Map<string, readonly Stretch[]>([
    ...hours.holidays.map((h) => [h.day, []] as const),
    ...hours.exceptions.map((e) => [e.day, joined(e.hours)] as const),
  ]);
  const on = (date: string) => special.get(date) ?? week[weekdayOf(date)]!;
  const all = [...week, ...[...special.values()]].flat();
  const years = new Map<number, Year>();
  return {
    zone,
    on,
    usualOpening: Math.min(...all.map((s) => s.from), wallDay) % wallDay,
    usualClosing: Math.max(...all.map((s) => s.to), 0) || wallDay,
    everOpen: all.length > 0,
    year: (year) => {
      const known = years.get(year);
      if (known) return known;
      const made = yearOf(zone, year, on);
      years.set(year, made);
      return made;
    },
  };
}

/**
 * The instant of a time on the clock on the wall. One that the clocks pass over is as long after midnight as before they did; of one
 * that comes twice the first is meant (RFC 5545, section 3.3.5).
 */
const onWall = (date: string, minute: number, zone: string): number => {
  const day = DateTime.fromISO(minute === wallDay ? nextDate(date) : date, { zone });
  return (minute === wallDay ? day : day.set({ hour: Math.floor(minute / 60), minute: minute % 60 })).toMillis();
};
const nextDate = (date: string): string => new Date(Date.parse(`${date}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10);

function yearOf(zone: string, year: number, on: Calendar['on']): Year {
  const days = isLeap(year) ? 366 : 365;
  const opens: number[] = [];
  const closes: number[] = [];
  const before: number[] = [];
  let open = 0;
  let midnight = DateTime.fromISO(isoDate(year, 1), { zone }).toMillis();
  const begins = midnight;
  const clock = zone === 'utc' ? FixedOffsetZone.utcInstance : IANAZone.create(zone);
  let offset = clock.offset(midnight);
  for (let n = 1; n <= days; n++) {
    const date = isoDate(year, n);
    // On nearly every day the clock on the wall goes as long as the day does.
    const evenly = midnight + wallDay * 60_000;
    const even = clock.offset(evenly) === offset;
    const next = even ? evenly : onWall(date, wallDay, zone);
    const at = (minute: number) => (even ? midnight + minute * 60_000 : minute === wallDay ? next : onWall(date, minute, zone));
    for (const s of on(date)) {
      const [from, to] = [at(s.from), at(s.to)];
      if (to <= from) continue;
      opens.push(from);
      closes.push(to);
      before.push(open);
      open += to - from;
    }
    if (!even) offset = clock.offset(next);
    midnight = next;
  }
  return { begins, ends: midnight, opens: Float64Array.from(opens), closes: Float64Array.from(closes), before: Float64Array.from([...before, open]) };
}

const usual = new Map<string, Calendar>();
/** The usual hours in a zone, where nobody has stated any; in UTC where this machine does not know the zone. */
export function deskCalendar(zone: string): Calendar {
  const known = usual.get(zone);
  if (known) return known;
  const made = compileHours(usualHours(zone));
  // Of zones there are some hundreds; of other names no end.
  if (made.zone === zone) usual.set(zone, made);
  return made;
}
