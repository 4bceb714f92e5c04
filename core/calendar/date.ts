/** The years a date or instant may lie in. */
const years = { first: 1900, last: 2199 };
const lengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/** The number that two digits of a text make; NaN where they are none. Documents hold many moments, and patterns take eight times as long. */
function two(text: string, at: number): number {
  const [tens, ones] = [text.charCodeAt(at) - 48, text.charCodeAt(at + 1) - 48];
  return tens >= 0 && tens < 10 && ones >= 0 && ones < 10 ? tens * 10 + ones : NaN;
}

/** Whether a text begins with a day that exists. */
function beginsWithDate(text: string): boolean {
  const [year, month, day] = [two(text, 0) * 100 + two(text, 2), two(text, 5), two(text, 8)];
  if (!(year >= years.first && year <= years.last && month >= 1 && month <= 12) || text[4] !== '-' || text[7] !== '-') return false;
  // Gregorian leap years: every fourth, of the hundreds every fourth.
  const leap = month === 2 && year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
  return day >= 1 && day <= lengths[month - 1]! + (leap ? 1 : 0);
}

/** Whether a text is a day that exists, written YYYY-MM-DD (ISO 8601), from 1900 to 2199. */
export const isDate = (text: string): boolean => text.length === 10 && beginsWithDate(text);

/** Whether a text is a moment of such a day, with its distance from UTC (ISO 8601, RFC 3339). */
export function isInstant(text: string): boolean {
  if (!beginsWithDate(text) || text[10] !== 'T' || text[13] !== ':' || !(two(text, 11) < 24 && two(text, 14) < 60)) return false;
  let at = 16;
  if (text[at] === ':') {
    if (!(two(text, 17) < 60)) return false;
    at = 19;
    if (text[at] === '.') {
      const begins = ++at;
      while (isDigit(text.charCodeAt(at))) at++;
      if (at === begins || at - begins > 9) return false;
    }
  }
  if (text[at] === 'Z') return text.length === at + 1;
  if ((text[at] !== '+' && text[at] !== '-') || !(two(text, at + 1) < 15)) return false;
  at += text[at + 3] === ':' ? 4 : 3;
  return two(text, at) < 60 && text.length === at + 2;
}
const isDigit = (code: number): boolean => code >= 48 && code <= 57;

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
