import ICAL from 'ical.js';
import { heard, line } from '../boundary/index.ts';
import { isDate } from '../calendar/index.ts';

/** A day on which nobody works, and what it is called. */
export interface Holiday {
  day: string;
  words: string;
}

/** How large a calendar file may be, in characters, and how many days one is read for. */
export const largestCalendar = 1_000_000;
const mostDays = 5000;
const mostOfOne = 400;
const longest = 60;

const called = line(120);

/**
 * The whole days that an iCalendar file (RFC 5545) names, from the first to the last year that is asked for, in their order; what comes
 * every year comes in each of them. What has a time of day, or was cancelled, is no holiday; how many were so is said.
 */
export function readHolidays(
  text: string,
  years: { from: number; to: number },
): { ok: true; holidays: Holiday[]; passedOver: number } | { ok: false; sentence: string } {
  if (text.length > largestCalendar) return { ok: false, sentence: 'The calendar is larger than a million characters. Take one of holidays only.' };
  let events: ICAL.Component[];
  try {
    const root = new ICAL.Component(ICAL.parse(text) as unknown[]);
    events = root.getAllSubcomponents('vevent');
  } catch {
    return { ok: false, sentence: 'This is no calendar file (iCalendar, .ics), or it was cut off.' };
  }
  const [first, last] = [`${years.from}-01-01`, `${years.to}-12-31`];
  const days = new Map<string, string>();
  let passedOver = 0;
  for (const component of events) {
    const found = daysOf(component, first, last);
    if (found === undefined) passedOver++;
    else for (const { day, words } of found) if (!days.has(day)) days.set(day, words);
    if (days.size > mostDays) return { ok: false, sentence: `It names more than ${mostDays.toLocaleString('en')} days. Take one of holidays only.` };
  }
  return { ok: true, holidays: [...days].map(([day, words]) => ({ day, words })).toSorted((a, b) => (a.day < b.day ? -1 : 1)), passedOver };
}

/** The days of one event within two days; undefined where it is none of whole days, or cannot be read. */
function daysOf(component: ICAL.Component, first: string, last: string): Holiday[] | undefined {
  try {
    const event = new ICAL.Event(component);
    if (!event.startDate?.isDate || String(component.getFirstPropertyValue('status') ?? '').toUpperCase() === 'CANCELLED') return undefined;
    const read = called.safeParse(heard(event.summary ?? '', 120).trim());
    const words = read.success && read.data ? read.data : 'Holiday';
    const long = Math.max(1, Math.min(longest, event.duration.toSeconds() / 86_400));
    const found: Holiday[] = [];
    const iterator = event.iterator();
    for (let n = 0; n < mostOfOne; n++) {
      const start = iterator.next() as ICAL.Time | undefined;
      if (!start) break;
      for (let d = 0; d < long; d++) {
        const at = start.clone();
        at.day += d;
        const day = at.toString().slice(0, 10);
        if (isDate(day) && day >= first && day <= last) found.push({ day, words });
      }
      if (start.toString().slice(0, 10) > last) break;
    }
    return found;
  } catch {
    return undefined;
  }
}
