import { DateTime } from 'luxon';
import { dateWords, isInstant } from '../../calendar/index.ts';
import type { ValueRoom } from '../room.ts';
import { textual } from '../text/index.ts';

/** Whether a text is a moment as it is kept: a date and a time (ISO 8601). */
export const isMoment = (text: string): boolean => /^\d{4}-\d\d-\d\dT/.test(text) && isInstant(text);

/** The room of this type: a moment, ISO 8601. `room.ts` says what each member means. */
export const instant: ValueRoom<string> = {
  schema: textual.schema,
  words: 'time',
  must: 'must be a date and time',
  is: (v): v is string => typeof v === 'string' && isInstant(v),
  order: (a, b) => (a < b ? -1 : a > b ? 1 : 0),
  orderWords: { less: 'is before', atMost: 'is at or before', more: 'is after', atLeast: 'is at or after' },
  say: (v, _, zone) => {
    const local = DateTime.fromISO(v, { zone: zone ?? 'utc' }).toISO({ includeOffset: false }) ?? v;
    return `${dateWords(local)}, ${local.slice(11, 16)}${zone === undefined ? ' UTC' : ''}`;
  },
  typed: (text) => (isInstant(text) ? text : undefined),
  json: { type: 'string', format: 'date-time' },
};
