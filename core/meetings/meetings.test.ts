import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { compileHours, deskCalendar, usualHours, wallDay } from '../calendar/index.ts';
import { firstFree, meetingWindow, type Diary, type Stretch } from './index.ts';

const at = (iso: string) => Date.parse(iso);
const iso = (s: Stretch | undefined) => s && [new Date(s.from).toISOString(), new Date(s.to).toISOString()];
const oslo = deskCalendar('Europe/Oslo');
const faroe = deskCalendar('Atlantic/Faroe');
const roundTheClock = compileHours({ ...usualHours('Europe/Oslo'), week: Array.from({ length: 7 }, () => [{ from: 0, to: wallDay }]) });
const week = (from: string, to = '2026-03-14T00:00:00Z') => ({ from: at(from), to: at(to) });

/** The slow and obvious way: from quarter to quarter, each minute looked at on everybody's clock. */
function walk(window: Stretch, minutes: number, diaries: (Diary & { open: (wall: DateTime) => boolean })[]): Stretch | undefined {
  const quarter = 900_000;
  for (let from = Math.ceil(window.from / quarter) * quarter; from + minutes * 60_000 <= window.to; from += quarter) {
    const every = Array.from({ length: minutes }, (_, m) => from + m * 60_000);
    const suits = diaries.every((d) =>
      every.every((t) => d.open(DateTime.fromMillis(t, { zone: d.hours.zone })) && d.busy.every((b) => t + 60_000 <= b.from || t >= b.to)),
    );
    if (suits) return { from, to: from + minutes * 60_000 };
  }
  return undefined;
}
const usualOpen = (wall: DateTime) => wall.weekday <= 5 && wall.hour >= 8 && wall.hour < 16;

describe('the first time at which all are free', () => {
  it('is when everybody works: Lunnick is an hour ahead of Torvay in winter, so the day is an hour shorter', () => {
    expect(iso(firstFree(week('2026-03-09T00:00:00Z'), 60, [{ hours: oslo, busy: [] }]))![0]).toBe('2026-03-09T07:00:00.000Z');
    const both = [oslo, faroe].map((hours) => ({ hours, busy: [] }));
    expect(iso(firstFree(week('2026-03-09T00:00:00Z'), 60, both))![0]).toBe('2026-03-09T08:00:00.000Z');
    expect(firstFree(week('2026-03-09T00:00:00Z'), 7 * 60, both)).toBeDefined();
    expect(firstFree(week('2026-03-09T00:00:00Z'), 7 * 60 + 1, both)).toBeUndefined();
  });
  it('begins on a quarter of an hour, goes around what is taken, and not over the end of the day or the window', () => {
    const busy = [
      { from: at('2026-03-09T07:00:00Z'), to: at('2026-03-09T09:20:00Z') },
      { from: at('2026-03-09T10:00:00Z'), to: at('2026-03-09T14:30:00Z') },
    ];
    const one = [{ hours: oslo, busy }];
    expect(iso(firstFree(week('2026-03-09T06:10:00Z'), 25, one))).toEqual(['2026-03-09T09:30:00.000Z', '2026-03-09T09:55:00.000Z']);
    expect(iso(firstFree(week('2026-03-09T06:10:00Z'), 60, one))![0]).toBe('2026-03-10T07:00:00.000Z');
    expect(firstFree(week('2026-03-09T06:10:00Z', '2026-03-10T07:59:00Z'), 60, one)).toBeUndefined();
  });
  it('goes on over midnight and the turn of the year where the hours do', () => {
    const night = { from: at('2026-12-31T22:30:00Z'), to: at('2027-01-02T00:00:00Z') };
    expect(iso(firstFree(night, 90, [{ hours: roundTheClock, busy: [] }]))).toEqual(['2026-12-31T22:30:00.000Z', '2027-01-01T00:00:00.000Z']);
  });
  it('is what a walk minute by minute finds, over the days the clocks change too', () => {
    const hour = 3_600_000;
    const begins = fc.constantFrom('2026-03-27T10:00:00Z', '2026-03-29T00:30:00Z', '2026-10-23T13:07:00Z', '2026-06-10T02:00:00Z').map(at);
    const diary = fc.record({
      which: fc.constantFrom(0, 1, 2),
      busy: fc.array(fc.tuple(fc.integer({ min: 0, max: 60 * 60 }), fc.integer({ min: 0, max: 500 })), { maxLength: 12 }),
    });
    const kinds = [
      { hours: oslo, open: usualOpen },
      { hours: faroe, open: usualOpen },
      { hours: roundTheClock, open: () => true },
    ];
    fc.assert(
      fc.property(begins, fc.array(diary, { minLength: 1, maxLength: 3 }), fc.integer({ min: 1, max: 300 }), (from, drawn, minutes) => {
        const diaries = drawn.map(({ which, busy }) => ({
          ...kinds[which]!,
          busy: busy.map(([a, b]) => ({ from: from + a * 60_000, to: from + (a + b) * 60_000 })),
        }));
        const window = { from, to: from + 60 * hour };
        expect(iso(firstFree(window, minutes, diaries))).toEqual(iso(walk(window, minutes, diaries)));
      }),
      { numRuns: 40 },
    );
  });
});

describe('where a time is looked for', () => {
  const now = '2026-03-06T14:00:00.000Z';
  const window = (wanted: Partial<Parameters<typeof meetingWindow>[0]>) => iso(meetingWindow({ within: 1, ...wanted }, now, oslo));
  it('is from a date on, whole working days, and a date on which nobody works counts from the next', () => {
    expect(window({ from: '2026-03-10' })).toEqual(['2026-03-09T23:00:00.000Z', '2026-03-10T23:00:00.000Z']);
    expect(window({ from: '2026-03-14', within: 2 })).toEqual(['2026-03-13T23:00:00.000Z', '2026-03-17T23:00:00.000Z']);
  });
  it('is not before those invited are told, in working time: Friday’s last hour, and three on Monday', () => {
    expect(window({ notice: 'PT4H', within: 3 })![0]).toBe('2026-03-09T10:00:00.000Z');
    expect(window({ from: '2026-03-02', within: 9 })![0]).toBe(now);
  });
  it('is from an instant on, and after a time that did not suit', () => {
    expect(window({ from: '2026-03-10T12:00:00.000Z' })).toEqual(['2026-03-10T12:00:00.000Z', '2026-03-10T23:00:00.000Z']);
    expect(window({ from: '2026-03-10', after: '2026-03-10T09:30:00.000Z' })![0]).toBe('2026-03-10T09:30:00.000Z');
  });
  it('is nowhere where there is no such day', () => expect(window({ from: '2026-02-30' })).toBeUndefined());
});
