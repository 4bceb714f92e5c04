import fc from 'fast-check';
import { DateTime } from 'luxon';
import { expect, it } from 'vitest';
import { dateWords, readDay } from './day.ts';

const today = '2026-11-26';

it.each([
  ['26.11.2026', '2026-11-26'],
  ['6.3.2027', '2027-03-06'],
  ['26/11/2026', '2026-11-26'],
  ['26 Nov 2026', '2026-11-26'],
  ['5 december', '2026-12-05'],
  ['2026-3-1', '2026-03-01'],
  ['29.2.2028', '2028-02-29'],
  // Without a year: the nearest, over the turn of the year too.
  ['26 Nov', '2026-11-26'],
  ['3.1.', '2027-01-03'],
  ['30 Jun', '2026-06-30'],
  ['29 Feb', undefined],
  ['31.11.2026', undefined],
  ['29.2.2027', undefined],
  ['0.1.2026', undefined],
  ['1.13.2026', undefined],
  ['26 Nuv', undefined],
  ['26 ma', undefined],
  ['1.1.1899', undefined],
  ['tomorrow', undefined],
  ['26', undefined],
  ['', undefined],
])('reads “%s” as %s', (typed, day) => {
  expect(readDay(typed, today)).toBe(day);
});

it('reads back what it says of any day, and the forms of luxon for it', () => {
  fc.assert(
    fc.property(fc.date({ min: new Date('1900-01-01'), max: new Date('2199-12-31'), noInvalidDate: true }), (date) => {
      const at = DateTime.fromJSDate(date, { zone: 'UTC' }).setLocale('en-GB');
      const day = at.toISODate()!;
      for (const form of ['d.M.yyyy', 'dd.MM.yyyy', 'd MMMM yyyy', 'd LLL yyyy', 'yyyy-MM-dd', 'd/M/yyyy'])
        expect(readDay(at.toFormat(form).replace('Sept ', 'Sep '), today)).toBe(day);
      expect(readDay(dateWords(day), today)).toBe(day);
    }),
  );
});

it('without a year no such day is nearer', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 364 }), fc.integer({ min: 0, max: 3000 }), (n, shift) => {
      const now = DateTime.fromISO('2024-01-01').plus({ days: shift }) as DateTime<true>;
      const meant = DateTime.fromISO('2025-01-01').plus({ days: n });
      const read = DateTime.fromISO(readDay(meant.toFormat('d.M.'), now.toISODate())!);
      expect(read.toFormat('d.M.')).toBe(meant.toFormat('d.M.'));
      expect(Math.abs(read.diff(now, 'days').days)).toBeLessThanOrEqual(183.1);
    }),
  );
});
