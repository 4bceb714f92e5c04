import { z } from 'zod';

/** Minutes in one working day; a day in an expected time is a working day of eight hours. */
export const workingDay = 8 * 60;

const shape = /^P(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$/;

/** The longest duration there is, in days: ten years. Nothing waits longer, and no arithmetic has to bear more. */
const mostDays = 3653;

/** An ISO 8601 duration in weeks, days, hours, minutes, seconds, up to ten years. Months and years have no fixed working length and are refused. */
export const Duration = z.string().refine((s) => parse(s) !== undefined, 'Write a duration such as PT15M, PT4H or P2D, up to ten years.');

/** Weeks, days, hours, minutes, seconds; undefined when the text is no duration, or one of more than ten years. */
export function durationParts(iso: string): [number, number, number, number, number] | undefined {
  const m = iso.length <= 40 ? shape.exec(iso) : null;
  if (!m || iso === 'P' || iso.endsWith('T')) return undefined;
  const parts = m.slice(1).map((x) => Number(x ?? 0)) as [number, number, number, number, number];
  const [w, d, h, min, s] = parts;
  return w * 7 + d + h / 24 + min / 1440 + s / 86_400 <= mostDays ? parts : undefined;
}

/** Its length counted round the clock, in seconds: a day is 24 hours. NaN of what is no duration. */
export function secondsOf(iso: string): number {
  const [weeks, days, hours, minutes, seconds] = durationParts(iso) ?? [NaN, 0, 0, 0, 0];
  return (((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds;
}

function parse(iso: string): number | undefined {
  const parts = durationParts(iso);
  if (!parts) return undefined;
  const [w, d, h, min, s] = parts;
  return w * 5 * workingDay + d * workingDay + h * 60 + min + s / 60;
}

/** Working minutes of an ISO 8601 duration: a day is 480, a week 2400. Throws a RangeError on anything else. */
export function workingMinutes(iso: string): number {
  const minutes = parse(iso);
  if (minutes === undefined) throw new RangeError(`“${iso}” is not a duration. Write one such as PT15M, PT4H or P2D.`);
  return minutes;
}

/** Working minutes in words, to two units: "2 d 4 h", "35 min", "20 s". */
export function minutesWords(minutes: number): string {
  if (minutes <= 0) return '0 min';
  if (minutes < 1) return `${Math.round(minutes * 60)} s`;
  const whole = Math.round(minutes);
  const [d, h, m] = [Math.floor(whole / workingDay), Math.floor((whole % workingDay) / 60), whole % 60];
  const parts = [d && `${d} d`, h && `${h} h`, m && `${m} min`].filter(Boolean);
  return parts.slice(0, 2).join(' ');
}

/** The same where room is short: minutes after hours without their unit, "6 h 50". */
export const minutesShort = (minutes: number): string => minutesWords(minutes).replace(/(?<= h \d+) min$/, '');

/** Expected working time of a step. */
export const Expected = z.object({ min: Duration, likely: Duration, max: Duration });
export type Expected = z.infer<typeof Expected>;

/** Mean of a three-point estimate in working minutes: (min + 4 likely + max) / 6. Source: PERT, Malcolm et al. 1959. */
export function meanMinutes(e: Expected): number {
  return (workingMinutes(e.min) + 4 * workingMinutes(e.likely) + workingMinutes(e.max)) / 6;
}

/** Variance of a three-point estimate in square minutes: ((max - min) / 6)². Source: as `meanMinutes`. */
export function varianceMinutes(e: Expected): number {
  return ((workingMinutes(e.max) - workingMinutes(e.min)) / 6) ** 2;
}
