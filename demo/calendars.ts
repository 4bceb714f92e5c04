import { DateTime } from 'luxon';
import { seeded } from './seeded.ts';

/** What takes people's time. */
const what = ['Tides, weekly', 'Survey planning', 'Review of charts', 'Vessel call', 'Away from the desk', 'Reading', 'Drill'];
/** So many weeks are filled, this one counted. */
const weeks = 5;

/** When people are taken in the next weeks, as their calendars say: about a third of each working day. */
export function takenUp(
  addresses: readonly string[],
  from: DateTime,
): { address: string; from: string; to: string; what: string; perhaps: boolean }[] {
  const { int, pick } = seeded(7);
  const monday = from.setZone('Europe/Oslo').startOf('week');
  return addresses.flatMap((address) =>
    Array.from({ length: weeks * 5 }, (_, n) => monday.plus({ weeks: Math.floor(n / 5), days: n % 5 })).flatMap((day) =>
      Array.from({ length: 1 + int(3) }, () => {
        const begins = day.set({ hour: 8 + int(7), minute: 30 * int(2) });
        const ends = begins.plus({ minutes: pick([30, 60, 90]) });
        return { address, from: begins.toUTC().toISO()!, to: ends.toUTC().toISO()!, what: pick(what), perhaps: int(6) === 0 };
      }),
    ),
  );
}

/** Fills the calendars of everybody who works here. */
export async function calendarsFilled(addresses: readonly string[]): Promise<void> {
  const address = process.env['CALENDAR_URL'];
  if (!address) throw new Error('Set CALENDAR_URL.');
  const taken = takenUp(addresses, DateTime.now());
  const answer = await fetch(new URL('/_taken', address), {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(taken),
  });
  if (!answer.ok) throw new Error(`The calendars took nothing: ${answer.status}.`);
}
