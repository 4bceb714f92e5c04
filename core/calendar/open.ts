import { isZone } from './date.ts';
import { deskHours as week } from './working.ts';

const clocks = new Map<string, Intl.DateTimeFormat>();
/** The clock of a zone; made once for each, of which there are some hundreds. */
function clockOf(zone: string): Intl.DateTimeFormat {
  const known = clocks.get(zone);
  if (known) return known;
  const made = new Intl.DateTimeFormat('en-GB', { timeZone: zone, weekday: 'short', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' });
  clocks.set(zone, made);
  return made;
}

/** Whether the desk is open at `now` (an ISO instant) in a zone, and in words until or from when; in UTC where the zone is not known. */
export function deskOpen(now: string, zone: string): { open: boolean; words: string } {
  const parts = clockOf(isZone(zone) ? zone : 'UTC').formatToParts(new Date(now));
  const get = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  const day = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'].indexOf(get('weekday'));
  const minute = Number(get('hour')) * 60 + Number(get('minute'));
  const works = (week.days as readonly number[]).includes(day);
  if (works && minute >= week.from && minute < week.to) return { open: true, words: `Desk open until ${clock(week.to)}` };
  if (works && minute < week.from) return { open: false, words: `Desk opens at ${clock(week.from)}` };
  const next = day === 5 || day === 6 ? 'Monday' : 'tomorrow';
  return { open: false, words: `Desk opens ${next} at ${clock(week.from)}` };
}

const clock = (minutes: number) => `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
