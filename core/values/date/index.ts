import { dateWords, isDate } from '../../calendar/index.ts';
import type { Stretches, ValueRoom } from '../room.ts';
import { textual } from '../text/index.ts';

const day = 86_400_000;
/** The room of this type: a day, YYYY-MM-DD. `room.ts` says what each member means. */
export const date: ValueRoom<string> = {
  ...textual,
  words: 'date',
  must: 'must be a date such as 2026-03-30',
  is: (v): v is string => typeof v === 'string' && isDate(v),
  orderWords: { less: 'is before', atMost: 'is on or before', more: 'is after', atLeast: 'is on or after' },
  say: dateWords,
  typed: (text) => (isDate(text) ? text : undefined),
  json: { type: 'string', format: 'date' },
  stretches: days,
};

function days({ values, ordered, several }: Stretches): string[] {
  const known = [...values, ...ordered].flatMap((v) => (typeof v === 'string' && !Number.isNaN(Date.parse(v)) ? [Date.parse(v)] : []));
  if (known.length === 0) known.push(Date.parse('2026-03-02'));
  const around = known.flatMap((n) => Array.from({ length: 2 * several + 1 }, (_, i) => n + (i - several) * day));
  return [...new Set(around)].sort((a, b) => a - b).map((n) => new Date(n).toISOString().slice(0, 10));
}
