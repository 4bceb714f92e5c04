import type { ValueRoom } from '../room.ts';
import { textual } from '../text/index.ts';

/** Whether a text is a time of day as it is kept: hours and minutes of the 24-hour clock (ISO 8601, hh:mm). */
export const isTimeOfDay = (text: string): boolean => /^([01]\d|2[0-3]):[0-5]\d$/.test(text);

/** What somebody typed as a time of day: `9`, `930`, `9.30` and `09:30` are hours and minutes; undefined where it is none. */
export function timeOfDay(typed: string): string | undefined {
  const [, hours, minutes = '00'] = /^(\d{1,2})(?:[:.h ]?(\d\d))?$/.exec(typed.trim()) ?? [];
  const time = hours === undefined ? '' : `${hours.padStart(2, '0')}:${minutes}`;
  return isTimeOfDay(time) ? time : undefined;
}

/** The room of this type: a time of day, hh:mm, of no zone. `room.ts` says what each member means. */
export const time: ValueRoom<string> = {
  schema: textual.schema,
  words: 'time of day',
  must: 'must be a time of day such as 09:30',
  is: (v): v is string => typeof v === 'string' && isTimeOfDay(v),
  order: (a, b) => (a < b ? -1 : a > b ? 1 : 0),
  orderWords: { less: 'is before', atMost: 'is at or before', more: 'is after', atLeast: 'is at or after' },
  say: (v) => v,
  typed: timeOfDay,
  json: { type: 'string', pattern: '^([01][0-9]|2[0-3]):[0-5][0-9]$' },
};
