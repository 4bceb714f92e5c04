import Decimal from 'decimal.js';
import { DateTime, Duration } from 'luxon';
import { isDate, isInstant } from '../calendar/index.ts';

/** FEEL's numbers: 34 decimal digits, half to even (DMN 1.3, 10.3.2.3.1; IEEE 754-2008 decimal128). */
export const Num = Decimal.clone({ precision: 34, rounding: Decimal.ROUND_HALF_EVEN, minE: -6143, maxE: 6144, toExpNeg: -40, toExpPos: 40 });
export type Num = Decimal;

/** What an expression handles while it is worked out. Days are midnights in UTC; a duration counts milliseconds or months, never both. */
export type Feel =
  | null
  | boolean
  | string
  | Num
  | Feel[]
  | Map<string, Feel>
  | { feel: 'date' | 'instant'; at: DateTime }
  | { feel: 'time'; ms: number }
  | { feel: 'days'; ms: number }
  | { feel: 'months'; months: number }
  | { feel: 'range'; low: Feel; high: Feel; lowIn: boolean; highIn: boolean }
  | { feel: 'function'; call: (args: Feel[]) => Feel };
/** The values of time among them. */
export type Temporal = Extract<Feel, { feel: 'date' | 'instant' | 'time' | 'days' | 'months' }>;

/** An expression that cannot be worked out, with the sentence that says why. */
export class Unworkable extends Error {}

/** What a value is, for functions and operators that take some kinds only. */
export type Kind = 'null' | 'boolean' | 'string' | 'number' | 'list' | 'context' | Extract<Feel, { feel: string }>['feel'];
/** The kind of a value. */
export function kindOf(v: Feel): Kind {
  if (v === null) return 'null';
  if (typeof v === 'boolean') return 'boolean';
  if (typeof v === 'string') return 'string';
  if (Array.isArray(v)) return 'list';
  if (v instanceof Map) return 'context';
  return v instanceof Decimal ? 'number' : v.feel;
}
/** Kinds as sentences name them. */
export const kindWords: Record<Kind, string> = {
  null: 'nothing',
  boolean: 'yes or no',
  string: 'text',
  number: 'number',
  list: 'list',
  context: 'group of named values',
  date: 'date',
  instant: 'date and time',
  time: 'time',
  days: 'duration',
  months: 'duration of months',
  range: 'range',
  function: 'function',
};

/** A day written YYYY-MM-DD; null where the text is none. */
export function dateOf(text: string): Feel {
  return isDate(text) ? { feel: 'date', at: DateTime.fromISO(text, { zone: 'utc' }) } : null;
}
/** A date and time; without an offset it is taken as UTC. */
export function instantOf(text: string): Feel {
  if (isDate(text)) return { feel: 'instant', at: DateTime.fromISO(text, { zone: 'utc' }) };
  const whole = /Z|[+-]\d\d:?\d\d$/.test(text) ? text : `${text}Z`;
  return isInstant(whole) ? { feel: 'instant', at: DateTime.fromISO(whole, { setZone: true }) } : null;
}
/** A time of day written hh:mm:ss; null where the text is none. */
export function timeOf(text: string): Feel {
  const m = /^(\d\d):(\d\d):(\d\d)(?:\.(\d{1,3}))?$/.exec(text);
  if (!m) return null;
  const [h, min, s] = m.slice(1, 4).map(Number) as [number, number, number];
  return h < 24 && min < 60 && s < 60 ? { feel: 'time', ms: ((h * 60 + min) * 60 + s) * 1000 + Number((m[4] ?? '').padEnd(3, '0')) } : null;
}
/** An ISO 8601 duration: of days and time, or of years and months. */
export function durationOf(text: string): Feel {
  const m = /^(-)?P(?:(\d{1,4})Y)?(?:(\d{1,5})M)?(?:(\d{1,6})D)?(?:T(?:(\d{1,7})H)?(?:(\d{1,8})M)?(?:(\d{1,9}(?:\.\d{1,3})?)S)?)?$/.exec(text);
  if (!m || /[PT]$/.test(text)) return null;
  const sign = m[1] ? -1 : 1;
  const [years, months, days, hours, minutes, seconds] = m.slice(2).map((x) => (x === undefined ? undefined : Number(x)));
  const calendar = years !== undefined || months !== undefined;
  const clock = days !== undefined || hours !== undefined || minutes !== undefined || seconds !== undefined;
  if (calendar && clock) return null;
  if (calendar) return { feel: 'months', months: sign * ((years ?? 0) * 12 + (months ?? 0)) };
  return { feel: 'days', ms: sign * Math.round((((days ?? 0) * 24 + (hours ?? 0)) * 60 + (minutes ?? 0)) * 60_000 + (seconds ?? 0) * 1000) };
}

/** A value of time as ISO 8601 writes it. */
export function isoOf(v: Temporal): string {
  switch (v.feel) {
    case 'date':
      return v.at.toISODate() ?? '';
    case 'instant':
      return v.at.toUTC().toISO() ?? '';
    case 'time':
      return Duration.fromMillis(v.ms).toFormat('hh:mm:ss');
    case 'days': {
      const n = Math.abs(v.ms);
      const [d, h, m, s] = [Math.floor(n / 86_400_000), Math.floor(n / 3_600_000) % 24, Math.floor(n / 60_000) % 60, (n % 60_000) / 1000];
      const clock = `${h ? `${h}H` : ''}${m ? `${m}M` : ''}${s ? `${s}S` : ''}`;
      return `${v.ms < 0 ? '-' : ''}P${d ? `${d}D` : ''}${clock ? `T${clock}` : d ? '' : 'T0S'}`;
    }
    case 'months': {
      const n = Math.abs(v.months);
      const words = `${Math.floor(n / 12) ? `${Math.floor(n / 12)}Y` : ''}${n % 12 ? `${n % 12}M` : ''}`;
      return `${v.months < 0 ? '-' : ''}P${words || '0M'}`;
    }
  }
}

/** A value as a text, as the function `string` gives it. */
export function stringOf(v: Feel): string {
  if (v === null) return 'null';
  if (typeof v === 'string') return v;
  if (typeof v === 'boolean') return String(v);
  if (Array.isArray(v)) return `[${v.map((x) => (typeof x === 'string' ? JSON.stringify(x) : stringOf(x))).join(', ')}]`;
  if (v instanceof Map) return `{${[...v].map(([k, x]) => `${k}: ${stringOf(x)}`).join(', ')}}`;
  if (v instanceof Decimal) return v.toFixed();
  return v.feel === 'range' || v.feel === 'function' ? v.feel : isoOf(v);
}

/** Equality as FEEL has it: null where kinds differ (10.3.2.13); lists and contexts by content. */
export function same(a: Feel, b: Feel): boolean | null {
  if (a === null || b === null) return a === b;
  if (kindOf(a) !== kindOf(b)) return null;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => same(x, b[i]!) === true);
  if (a instanceof Map && b instanceof Map) return a.size === b.size && [...a].every(([k, x]) => b.has(k) && same(x, b.get(k)!) === true);
  const order = compare(a, b);
  return order === undefined ? a === b : order === 0;
}

/** Below 0, 0 or above; undefined where the kind has no order. */
export function compare(a: Feel, b: Feel): number | undefined {
  if (kindOf(a) !== kindOf(b)) return undefined;
  if (a instanceof Decimal) return a.comparedTo(b as Num);
  if (typeof a === 'string') return a < (b as string) ? -1 : a > (b as string) ? 1 : 0;
  if (typeof a !== 'object' || a === null || !('feel' in a)) return undefined;
  const number = (v: Feel) => {
    const t = v as Temporal;
    return 'at' in t ? t.at.toMillis() : 'ms' in t ? t.ms : 'months' in t ? t.months : undefined;
  };
  const [x, y] = [number(a), number(b)];
  return x === undefined || y === undefined ? undefined : x - y;
}
