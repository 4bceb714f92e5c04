import { addWorking, dayAfter, dayOf, instantIn, isInstant, workingMinutes, type Calendar } from '../calendar/index.ts';
import type { Stretch } from './free.ts';

/**
 * Where a time for a meeting is looked for: from an answer on (a date or an instant; without one from now on), not before those invited
 * have had `notice` (working time) of it, not before `after`, and to the end of so many working days. The days are those of the hours that are given.
 * Undefined where there is no such day.
 */
export function meetingWindow(
  wanted: { from?: string | undefined; notice?: string | undefined; within: number; after?: string | undefined },
  now: string,
  hours: Calendar,
): Stretch | undefined {
  const { from = now, notice, within, after } = wanted;
  const isMoment = isInstant(from);
  const firstDay = isMoment ? dayOf(from, hours.zone) : from;
  const lastDay = dayAfter(onWorkingDay(firstDay, hours), within - 1, 'working', hours);
  const dayBehind = lastDay === undefined ? undefined : dayAfter(lastDay, 1, 'always', hours);
  if (dayBehind === undefined) return undefined;
  const begins = isMoment ? Date.parse(from) : instantIn(from, '00:00', hours.zone).getTime();
  const told = notice === undefined ? now : addWorking(now, workingMinutes(notice), hours);
  const earliest = Math.max(begins, Date.parse(told), after === undefined ? 0 : Date.parse(after));
  const ends = instantIn(dayBehind, '00:00', hours.zone).getTime();
  return Number.isNaN(earliest) || Number.isNaN(ends) ? undefined : { from: earliest, to: ends };
}

/** A day on which somebody works: this one, or the next. */
function onWorkingDay(day: string, hours: Calendar): string {
  if (hours.on(day).length > 0) return day;
  return dayAfter(day, 1, 'working', hours) ?? day;
}
