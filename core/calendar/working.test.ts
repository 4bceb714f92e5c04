import dayjs from 'dayjs';
import businessTime from 'dayjs-business-time';
import utc from 'dayjs/plugin/utc.js';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import {
  addAlways,
  addWorking,
  dateCloses,
  dateOpens,
  dayOf,
  deskCalendar,
  instantIn,
  reckon,
  spanWords,
  workingBetween,
  workingDaysBefore,
} from './index.ts';

dayjs.extend(utc);
dayjs.extend(businessTime);
const hours = [{ start: '08:00:00', end: '16:00:00' }];
dayjs.setBusinessTime({ monday: hours, tuesday: hours, wednesday: hours, thursday: hours, friday: hours, saturday: null, sunday: null } as never);

const calendar = deskCalendar('Europe/Oslo');
const minute = (max: number) =>
  fc.integer({ min: 0, max }).map((m) => DateTime.fromISO('2026-01-01T00:00:00Z').plus({ minutes: m }).toUTC().toISO()!);

/** The slow and obvious way: minute by minute, looking at the clock on the wall. */
function walkMinutes(start: string, minutes: number): string {
  let now = DateTime.fromISO(start, { zone: calendar.zone });
  for (let left = minutes; left > 0; now = now.plus({ minutes: 1 })) {
    const wall = now.hour * 60 + now.minute;
    if (now.weekday <= 5 && wall >= 8 * 60 && wall < 16 * 60) left--;
  }
  return now.toUTC().toISO()!;
}

describe('working time', () => {
  it('is what the reference library says (dayjs-business-time), in a zone without changes of the clock', () => {
    fc.assert(
      fc.property(minute(400_000), fc.integer({ min: 1, max: 6000 }), (start, minutes) => {
        const theirs = (dayjs.utc(start) as unknown as { addBusinessMinutes: (n: number) => dayjs.Dayjs }).addBusinessMinutes(minutes);
        const ours = addWorking(start, minutes, deskCalendar('utc'));
        // At the close of a day the library moves on to the next opening; the instant when the time has passed is the same working time.
        const same = ours === theirs.toISOString() || workingBetween(ours, theirs.toISOString(), deskCalendar('utc')) === 0;
        expect(same, `${ours} ${theirs.toISOString()}`).toBe(true);
      }),
      { numRuns: 200 },
    );
  });

  it('is what a walk minute by minute finds, over the days the clocks change (2026-03-29 and 2026-10-25)', () => {
    for (const around of ['2026-03-26T06:30:00.000Z', '2026-03-27T14:10:00.000Z', '2026-10-23T12:00:00.000Z', '2026-10-25T01:30:00.000Z'])
      for (const minutes of [1, 480, 481, 1000, 2401]) expect(addWorking(around, minutes, calendar)).toBe(walkMinutes(around, minutes));
  });

  it('adding and measuring agree, and zero minutes is the moment itself', () => {
    fc.assert(
      fc.property(minute(500_000), fc.integer({ min: 0, max: 20_000 }), (start, minutes) => {
        const end = addWorking(start, minutes, calendar);
        expect(Math.round(workingBetween(start, end, calendar))).toBe(minutes);
      }),
      { numRuns: 200 },
    );
    expect(addWorking('2026-03-02T09:00:00.000Z', 0, calendar)).toBe('2026-03-02T09:00:00.000Z');
  });

  it('a time on a day is an instant of its zone; one that the clocks skip is moved on, and what is none is no instant', () => {
    const at = (day: string, time: string, zone = 'Europe/Oslo') => instantIn(day, time, zone).getTime();
    expect(at('2026-01-15', '08:00')).toBe(Date.parse('2026-01-15T07:00:00Z'));
    expect(at('2026-03-29', '02:30')).toBe(Date.parse('2026-03-29T01:30:00Z'));
    expect(at('2026-03-29', '03:30')).toBe(Date.parse('2026-03-29T01:30:00Z'));
    for (const [day, time] of [
      ['2026-02-30', '08:00'],
      ['2026-01-15', '24:00'],
      ['', ''],
    ] as const)
      expect(at(day, time)).toBeNaN();
  });
  it('a span counts working time or every hour; a date opens and closes with the desk', () => {
    expect(addAlways('2026-03-27T14:00:00.000Z', 'P1D')).toBe('2026-03-28T14:00:00.000Z');
    // So many working days before a day (dayjs-business-time), over weekends and the change of the clocks.
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 700 }), fc.integer({ min: 1, max: 40 }), (n, before) => {
        const day = DateTime.fromISO('2026-01-01', { zone: 'utc' }).plus({ days: n });
        const other = (dayjs.utc(day.toISODate()!).hour(12) as dayjs.Dayjs).subtractBusinessDays(before).format('YYYY-MM-DD');
        expect(workingDaysBefore(day.toISODate()!, before, calendar)).toBe(other);
      }),
    );
    expect(workingDaysBefore('2026-02-30', 1, calendar)).toBeUndefined();
    const dayBefore = { hours: { zone: 'Europe/Oslo' }, day: '2026-03-30', edge: 'closes' as const, workingDaysBefore: 1 };
    expect([reckon(dayBefore, calendar), dayOf('2026-03-29T22:30:00Z', 'Europe/Oslo')]).toEqual(['2026-03-27T15:00:00.000Z', '2026-03-30']);
    // Friday 15:00 in Oslo: one hour is left, the other seven are Monday's, after the clocks went forward.
    expect(reckon({ hours: { zone: 'Europe/Oslo' }, from: '2026-03-27T14:00:00.000Z', minutes: 480 }, calendar)).toBe('2026-03-30T13:00:00.000Z');
    expect([dateOpens('2026-03-30', calendar), dateCloses('2026-03-29', calendar)]).toEqual(['2026-03-30T06:00:00.000Z', '2026-03-27T15:00:00.000Z']);
    expect([spanWords({ length: 'P1D', counted: 'working' }), spanWords({ length: 'PT5M', counted: 'always' })]).toEqual([
      '1 working day',
      '5 minutes',
    ]);
  });
});
