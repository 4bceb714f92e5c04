import { DateTime } from 'luxon';

/** When a meeting is, on the clock of a zone: “1 Dec 2026, 08:00 to 09:00”, with the day once where it is the same. */
export function meetingTime(begins: Date | string, ends: Date | string, zone: string): string {
  const [from, to] = [begins, ends].map((at) => DateTime.fromJSDate(new Date(at)).setZone(zone).setLocale('en-GB')) as [DateTime, DateTime];
  return `${from.toFormat('d LLL yyyy, HH:mm')} to ${to.toFormat(from.hasSame(to, 'day') ? 'HH:mm' : 'd LLL yyyy, HH:mm')}`;
}
