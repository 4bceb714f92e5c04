import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { isDate, isZone } from './date.ts';

/** Minutes in a day of the clock on the wall; on the days the clocks change a day is longer or shorter all the same. */
export const wallDay = 24 * 60;

/** A stretch of a day in which the desk is open: minutes after midnight on the clock on the wall, the end not in it. */
export const Stretch = z
  .object({ from: z.number().int().min(0).max(wallDay), to: z.number().int().min(0).max(wallDay) })
  .refine((s) => s.from < s.to, 'It opens before it closes.');
export type Stretch = z.infer<typeof Stretch>;

/** The open stretches of a day, in order; what touches or overlaps is one. */
const DayHours = z.array(Stretch).max(24).transform(joined);

const day = z.string().refine(isDate, 'Choose a day from 1900 to 2199.');

/**
 * When a desk is open: the stretches of each day of a week, the days on which others count, and holidays, on which it is closed. Hours
 * over midnight are two stretches that touch there; round the clock is a stretch of a whole day, seven times.
 */
export const ServiceHours = z.object({
  name: line(80).trim().min(1, 'The hours need a name.'),
  /** IANA zone of the clock on the wall. */
  zone: z.string().refine(isZone, 'This zone is not known.'),
  /** Monday to Sunday. */
  week: z.array(DayHours).length(7),
  /** Days with hours of their own, also where they are holidays; none is closed. */
  exceptions: z.array(z.object({ day, hours: DayHours, words: line(120) })).max(2000),
  holidays: z.array(z.object({ day, words: line(120) })).max(5000),
});
export type ServiceHours = z.infer<typeof ServiceHours>;

/** Stretches in order, those that touch or overlap as one. */
export function joined(stretches: readonly Stretch[]): Stretch[] {
  const found: Stretch[] = [];
  for (const s of stretches.toSorted((a, b) => a.from - b.from)) {
    const last = found.at(-1);
    if (last && s.from <= last.to) found[found.length - 1] = { from: last.from, to: Math.max(last.to, s.to) };
    else found.push({ ...s });
  }
  return found;
}

/** Monday to Friday, 8 to 16: what counts where nobody has stated hours. */
export const usualHours = (zone: string): ServiceHours => ({
  name: 'Usual hours',
  zone: isZone(zone) ? zone : 'utc',
  week: [1, 2, 3, 4, 5, 6, 7].map((weekday) => (weekday <= 5 ? [{ from: 8 * 60, to: 16 * 60 }] : [])),
  exceptions: [],
  holidays: [],
});

const clock = (minute: number): string => `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/** The stretches of a day in words: “08:00 to 12:00 and 13:00 to 16:00”, “closed”, “round the clock”. */
export const dayHoursWords = (stretches: readonly Stretch[]): string =>
  stretches.length === 0
    ? 'closed'
    : stretches.length === 1 && stretches[0]!.from === 0 && stretches[0]!.to === wallDay
      ? 'round the clock'
      : stretches.map((s) => `${clock(s.from)} to ${clock(s.to)}`).join(' and ');

/** How the stretches of a day are typed: “8-12, 13-16:30”, “08:00 to 16:00 and 18:00 to 20:00”, “closed”, “round the clock”. */
const stretchTyped = /^(\d{1,2})(?:[:.](\d{2}))?(?:-|–|to)(\d{1,2})(?:[:.](\d{2}))?$/;

/** What somebody typed of a day's hours; undefined where it is none. Nothing typed is closed. */
export function readDayHours(typed: string): Stretch[] | undefined {
  const text = typed.trim().toLowerCase();
  if (text === '' || text === 'closed') return [];
  if (text === 'round the clock') return [{ from: 0, to: wallDay }];
  const found: Stretch[] = [];
  for (const piece of text.replace(/\s*(-|–|\bto\b)\s*/g, '$1').split(/,|;|\band\b|\s/)) {
    if (piece.trim() === '') continue;
    const [, h1, m1 = '0', h2, m2 = '0'] = stretchTyped.exec(piece.trim()) ?? [];
    const [from, to] = [Number(h1) * 60 + Number(m1), Number(h2) * 60 + Number(m2)];
    if (h1 === undefined || Number(m1) > 59 || Number(m2) > 59 || !Stretch.safeParse({ from, to }).success) return undefined;
    found.push({ from, to });
  }
  return joined(found);
}
