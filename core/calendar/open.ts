import { DateTime } from 'luxon';
import type { Calendar } from './compiled.ts';

/** How far ahead the next opening is looked for, in days. */
const farthest = 60;
/** Stretches that touch are one: over midnight, round the clock. More of them than this are as good as always. */
const mostTouching = 20;

/** Whether the desk is open at `now` (an ISO instant) by these hours, and in words until or from when, by their own clock. */
export function deskOpen(now: string, calendar: Calendar): { open: boolean; words: string } {
  const at = DateTime.fromISO(now, { zone: calendar.zone });
  let until: number | undefined;
  let touching = 0;
  for (let n = -1; n < farthest; n++) {
    const day = at.startOf('day').plus({ days: n });
    for (const s of calendar.on(day.toISODate() ?? '')) {
      const [from, to] = [wallTime(day, s.from), wallTime(day, s.to)];
      if (until !== undefined && from.toMillis() === until && ++touching < mostTouching) until = to.toMillis();
      else if (until !== undefined) return openUntil(until, touching, at);
      else if (to <= at) continue;
      else if (from > at) return { open: false, words: `Desk opens ${dayWords(day, at)}at ${from.toFormat('HH:mm')}` };
      else until = to.toMillis();
    }
  }
  return until === undefined ? { open: false, words: 'Desk closed' } : openUntil(until, touching, at);
}

function openUntil(until: number, touching: number, at: DateTime): { open: boolean; words: string } {
  if (touching >= mostTouching) return { open: true, words: 'Desk open round the clock' };
  const closes = DateTime.fromMillis(until, { zone: at.zone });
  // Midnight is the end of a day, not the beginning of the next.
  const day = closes.minus({ milliseconds: 1 }).startOf('day');
  return { open: true, words: `Desk open until ${dayWords(day, at)}${closes.toFormat('HH:mm')}` };
}

const wallTime = (day: DateTime, minute: number): DateTime =>
  minute === 1440 ? day.plus({ days: 1 }) : day.set({ hour: Math.floor(minute / 60), minute: minute % 60 });

/** A day as it is named today, with a blank after it; today is not named. */
function dayWords(day: DateTime, now: DateTime): string {
  const away = Math.round(day.diff(now.startOf('day'), 'days').days);
  if (away <= 0) return '';
  if (away === 1) return 'tomorrow ';
  return `${day.setLocale('en-GB').toFormat(away < 7 ? 'cccc' : 'd LLL')} `;
}
