import { isDate } from './date.ts';

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const pad = (n: number, length: number): string => String(n).padStart(length, '0');

/** A day, `yyyy-mm-dd`, as people read it: "26 Nov 2026". */
export const dateWords = (date: string): string => `${Number(date.slice(8, 10))} ${months[Number(date.slice(5, 7)) - 1]} ${date.slice(0, 4)}`;

/**
 * A day as people type it, as `yyyy-mm-dd`: `26.11.2026`, `26/11/2026`, `26 Nov 2026`, `26 November`, `2026-11-26`. Without a
 * year it is the nearest such day to `today` (`yyyy-mm-dd`), before or after. Undefined where it is no day.
 */
export function readDay(text: string, today: string): string | undefined {
  const typed = text.trim().toLowerCase();
  const of = (year: number, month: number, day: number): string[] => {
    const date = `${pad(year, 4)}-${pad(month, 2)}-${pad(day, 2)}`;
    return isDate(date) ? [date] : [];
  };
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(typed);
  if (iso) return of(Number(iso[1]), Number(iso[2]), Number(iso[3]))[0];
  const [, d = '', m = '', y] = /^(\d{1,2})[.\s/]\s*(\d{1,2}|[a-z]{3,9})(?:[.\s/]\s*(\d{4}))?\.?$/.exec(typed) ?? [];
  const month = /^\d/.test(m) ? Number(m) : longMonths.findIndex((name) => m !== '' && name.startsWith(m)) + 1;
  if (y !== undefined) return of(Number(y), month, Number(d))[0];
  const year = Number(today.slice(0, 4));
  const away = (day: string) => Math.abs(Date.parse(day) - Date.parse(today));
  return [year - 1, year, year + 1].flatMap((one) => of(one, month, Number(d))).toSorted((a, b) => away(a) - away(b))[0];
}
const longMonths = ['january', 'february', 'march', 'april', 'may', 'june', 'july', 'august', 'september', 'october', 'november', 'december'];
