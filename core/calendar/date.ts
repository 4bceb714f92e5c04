/** The years a date or instant may lie in. */
const years = { first: 1900, last: 2199 };
const lengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/** Whether a text is a day that exists, written YYYY-MM-DD (ISO 8601), from 1900 to 2199. */
export function isDate(text: string): boolean {
  const m = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  if (!m) return false;
  const [year, month, day] = [Number(m[1]), Number(m[2]), Number(m[3])];
  if (year < years.first || year > years.last || month < 1 || month > 12) return false;
  // Gregorian leap years: every fourth, of the hundreds every fourth.
  const leap = month === 2 && year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
  return day >= 1 && day <= lengths[month - 1]! + (leap ? 1 : 0);
}

/** Whether a text is a moment of such a day, with its distance from UTC (ISO 8601, RFC 3339). */
export function isInstant(text: string): boolean {
  const m = /^(\d{4}-\d\d-\d\d)T(\d\d):(\d\d)(?::(\d\d)(?:\.\d{1,9})?)?(?:Z|[+-](\d\d):?(\d\d))$/.exec(text);
  if (!m || !isDate(m[1]!)) return false;
  const [hour, minute, second, offHour, offMinute] = m.slice(2).map((x) => Number(x ?? 0)) as [number, number, number, number, number];
  return hour < 24 && minute < 60 && second < 60 && offHour < 15 && offMinute < 60;
}

/** Zones asked about before: looking one up costs more than a whole step of a run. */
const zones = new Map<string, boolean>();

/** Whether a text names a time zone of the IANA database that this machine knows. */
export function isZone(text: string): boolean {
  if (text.length > 60) return false;
  const before = zones.get(text);
  if (before !== undefined) return before;
  let known = true;
  try {
    new Intl.DateTimeFormat('en-GB', { timeZone: text });
  } catch {
    known = false;
  }
  // There are some six hundred; whoever asks about more is guessing.
  if (zones.size < 2000) zones.set(text, known);
  return known;
}
