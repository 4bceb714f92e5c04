import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import {
  addWorking,
  addWorkingLess,
  compileHours,
  dateCloses,
  dateOpens,
  dayHoursWords,
  deskOpen,
  joined,
  readDayHours,
  ServiceHours,
  takeWorking,
  usualHours,
  wallDay,
  workingBetween,
  workingDaysBefore,
  workingLess,
  type Calendar,
} from './index.ts';

const zones = ['Europe/Oslo', 'Atlantic/Faroe', 'utc', 'America/St_Johns'];
/** Stretches outside the hours that the clocks skip or say twice: there the clock on the wall does not tell what is open. */
const anyDay = fc.oneof(
  { weight: 3, arbitrary: fc.array(fc.tuple(fc.integer({ min: 16, max: 94 }), fc.integer({ min: 1, max: 20 })), { maxLength: 3 }) },
  { weight: 1, arbitrary: fc.constantFrom([[0, 96]] as [number, number][], [[88, 8]] as [number, number][]) },
);
const stretches = (quarters: [number, number][]) => quarters.map(([from, long]) => ({ from: from * 15, to: Math.min(wallDay, (from + long) * 15) }));
const anyDate = fc.integer({ min: 0, max: 700 }).map((n) => DateTime.fromISO('2026-01-01').plus({ days: n }).toISODate()!);
/** Hours of any week with exceptions and holidays, open at least once a week. */
const anyHours = fc
  .record({
    zone: fc.constantFrom(...zones),
    week: fc.tuple(anyDay, anyDay, anyDay, anyDay, anyDay, anyDay, anyDay),
    exceptions: fc.array(fc.record({ day: anyDate, hours: anyDay }), { maxLength: 5 }),
    holidays: fc.array(anyDate, { maxLength: 20 }),
  })
  .map((h) =>
    ServiceHours.parse({
      name: 'Any',
      zone: h.zone,
      week: h.week.map((d, i) => (i === 2 ? [{ from: 480, to: 960 }] : stretches(d as [number, number][]))),
      exceptions: h.exceptions.map((e) => ({ day: e.day, hours: stretches(e.hours as [number, number][]), words: '' })),
      holidays: h.holidays.map((day) => ({ day, words: 'Holiday' })),
    }),
  );
const anyMoment = fc.integer({ min: 0, max: 1_000_000 }).map((m) => new Date(Date.UTC(2026, 0, 1) + m * 60_000).toISOString());

/** Whether it is open in the minute that begins, by the clock on the wall. */
const isOpen = (at: DateTime, calendar: Calendar): boolean => {
  const wall = at.hour * 60 + at.minute;
  return calendar.on(at.toISODate()!).some((s) => wall >= s.from && wall < s.to);
};

describe('service hours', () => {
  it('add what a walk minute by minute finds (luxon), in any week, over exceptions, holidays and the days the clocks change', () => {
    fc.assert(
      fc.property(anyHours, anyMoment, fc.integer({ min: 1, max: 1200 }), (hours, start, minutes) => {
        const calendar = compileHours(hours);
        let at = DateTime.fromISO(start, { zone: hours.zone });
        for (let left = minutes; left > 0; at = at.plus({ minutes: 1 })) if (isOpen(at, calendar)) left--;
        expect(addWorking(start, minutes, calendar)).toBe(at.toUTC().toISO());
      }),
      { numRuns: 25 },
    );
  });

  it.each(['2026-03-27T20:00:00Z', '2026-10-23T20:00:00Z'])(
    'do so from %s, over the changes of the clocks of Europe/Oslo and Atlantic/Faroe',
    (start) => {
      fc.assert(
        fc.property(anyHours, fc.integer({ min: 1, max: 2000 }), (hours, minutes) => {
          const calendar = compileHours({ ...hours, zone: hours.zone === 'utc' ? 'Europe/Oslo' : hours.zone });
          let at = DateTime.fromISO(start, { zone: calendar.zone });
          for (let left = minutes; left > 0; at = at.plus({ minutes: 1 })) if (isOpen(at, calendar)) left--;
          expect(addWorking(start, minutes, calendar)).toBe(at.toUTC().toISO());
        }),
        { numRuns: 8 },
      );
    },
  );

  it('measure what they add, add what they measure, to the second, and take off what they add', () => {
    fc.assert(
      fc.property(anyHours, anyMoment, fc.integer({ min: 1, max: 5_000_000 }), (hours, start, seconds) => {
        const calendar = compileHours(hours);
        const end = addWorking(start, seconds / 60, calendar);
        expect(Math.round(workingBetween(start, end, calendar) * 60)).toBe(seconds);
        // What so much earlier has to begin: as much lies between, and no later moment would do.
        const begins = takeWorking(end, seconds / 60, calendar);
        expect(Math.round(workingBetween(begins, end, calendar) * 60)).toBe(seconds);
        const later = new Date(Date.parse(begins) + 1000).toISOString();
        expect(workingBetween(later, end, calendar) * 60).toBeLessThan(seconds);
      }),
      { numRuns: 100 },
    );
  });

  it('lie in parts as in the whole, over the ends of years', () => {
    fc.assert(
      fc.property(anyHours, fc.tuple(anyMoment, anyMoment, anyMoment), (hours, moments) => {
        const calendar = compileHours(hours);
        const [a, b, c] = moments.toSorted() as [string, string, string];
        const whole = workingBetween(a, c, calendar);
        expect(workingBetween(a, b, calendar) + workingBetween(b, c, calendar)).toBeCloseTo(whole, 6);
        expect(workingBetween(c, a, calendar)).toBe(0);
      }),
    );
  });

  it('do not count what is held, once however it overlaps; where a hold goes on, nothing is due', () => {
    const anyHeld = fc.array(fc.tuple(anyMoment, fc.integer({ min: 0, max: 20_000 })), { maxLength: 4 });
    fc.assert(
      fc.property(anyHours, anyMoment, fc.integer({ min: 1, max: 4000 }), anyHeld, (hours, start, minutes, given) => {
        const calendar = compileHours(hours);
        const held = given.map(([from, long]) => ({ from, to: new Date(Date.parse(from) + long * 60_000).toISOString() }));
        const end = addWorkingLess(start, minutes, held, calendar)!;
        expect(Math.round(workingLess(start, end, held, calendar))).toBe(minutes);
      }),
      { numRuns: 100 },
    );
    const calendar = compileHours(usualHours('utc'));
    expect(addWorkingLess('2026-03-02T08:00:00Z', 60, [{ from: '2026-03-02T08:30:00Z' }], calendar)).toBeUndefined();
    expect(addWorkingLess('2026-03-02T08:00:00Z', 30, [{ from: '2026-03-02T08:30:00Z' }], calendar)).toBe('2026-03-02T08:30:00.000Z');
    expect(workingLess('2026-03-02T08:00:00Z', '2026-03-02T12:00:00Z', [{ from: '2026-03-02T09:00:00Z' }], calendar)).toBe(60);
  });

  it('are worked out by hand: 4 h from Friday 14:10 at Lunnick, which closes at 15:30, end on Monday at 10:40', () => {
    const lunnick = compileHours({
      ...usualHours('Europe/Oslo'),
      week: [1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 5 ? [{ from: 480, to: 930 }] : [])),
      holidays: [{ day: '2026-05-14', words: 'Ascension Day' }],
    });
    // Friday 27 November 2026, 14:10 in Oslo: 1 h 20 are left of the day; 2 h 40 are Monday's.
    expect(addWorking('2026-11-27T13:10:00Z', 240, lunnick)).toBe('2026-11-30T09:40:00.000Z');
    // Wednesday 13 May 2026, 15:00 in Oslo: half an hour, no Thursday, the rest on Friday.
    expect(addWorking('2026-05-13T13:00:00Z', 60, lunnick)).toBe('2026-05-15T06:30:00.000Z');
    expect([dateOpens('2026-05-14', lunnick), dateCloses('2026-05-14', lunnick)]).toEqual(['2026-05-14T06:00:00.000Z', '2026-05-13T13:30:00.000Z']);
    expect(workingDaysBefore('2026-05-15', 1, lunnick)).toBe('2026-05-13');
  });

  it('say of a time that the clocks say twice the first, and of one they skip the one after (RFC 5545, 3.3.5)', () => {
    const nights = compileHours({ ...usualHours('Europe/Oslo'), week: Array.from({ length: 7 }, () => [{ from: 150, to: 240 }]) });
    // 25 October 2026: 02:30 comes at 00:30 and at 01:30 UTC; from the first to 04:00 are two hours and a half.
    expect(workingBetween('2026-10-24T22:00:00Z', '2026-10-25T12:00:00Z', nights)).toBe(150);
    // 29 March 2026: 02:30 does not come; what would begin then begins at 03:30.
    expect(workingBetween('2026-03-28T23:00:00Z', '2026-03-29T12:00:00Z', nights)).toBe(30);
    const always = compileHours({ ...usualHours('Europe/Oslo'), week: Array.from({ length: 7 }, () => [{ from: 0, to: wallDay }]) });
    expect(workingBetween('2026-10-24T22:00:00Z', '2026-10-25T23:00:00Z', always)).toBe(25 * 60);
  });

  it('that are never open have no arithmetic, and say so at once', () => {
    const never = compileHours({ ...usualHours('utc'), week: [[], [], [], [], [], [], []] });
    expect(() => addWorking('2026-03-02T08:00:00Z', 1, never)).toThrow('These working hours are never open.');
    expect(addWorking('2026-03-02T08:00:00Z', 0, never)).toBe('2026-03-02T08:00:00.000Z');
    expect(workingBetween('2026-03-02T08:00:00Z', '2027-03-02T08:00:00Z', never)).toBe(0);
    expect(workingDaysBefore('2026-03-02', 1, never)).toBeUndefined();
    expect(deskOpen('2026-03-02T08:00:00Z', never)).toEqual({ open: false, words: 'Desk closed' });
    // Open on one day of one year only.
    const once = compileHours({
      ...usualHours('utc'),
      week: [[], [], [], [], [], [], []],
      exceptions: [{ day: '2026-03-04', hours: [{ from: 600, to: 660 }], words: '' }],
    });
    expect(addWorking('2026-03-02T08:00:00Z', 60, once)).toBe('2026-03-04T11:00:00.000Z');
    expect(() => addWorking('2026-03-02T08:00:00Z', 61, once)).toThrow('never open for so long');
    expect(() => takeWorking('2026-03-02T08:00:00Z', 1, once)).toThrow('never open for so long');
  });

  it('say until when, over midnight and round the clock, and when next, after a holiday', () => {
    const ship = compileHours({
      ...usualHours('utc'),
      week: [[{ from: 1320, to: 1440 }], [{ from: 0, to: 360 }], [], [], [], [], []],
      holidays: [{ day: '2026-03-09', words: 'Harbour day' }],
    });
    const at = (moment: string, calendar = ship) => deskOpen(moment, calendar).words;
    expect(at('2026-03-02T23:00:00Z')).toBe('Desk open until tomorrow 06:00');
    expect(at('2026-03-03T05:00:00Z')).toBe('Desk open until 06:00');
    expect(at('2026-03-02T08:00:00Z')).toBe('Desk opens at 22:00');
    // The ninth is a holiday, so the next opening is at midnight of the tenth.
    expect(at('2026-03-06T08:00:00Z')).toBe('Desk opens Tuesday at 00:00');
    expect(at('2026-03-03T08:00:00Z')).toBe('Desk opens 10 Mar at 00:00');
    expect(at('2026-03-03T08:00:00Z', compileHours({ ...usualHours('utc'), week: Array.from({ length: 7 }, () => [{ from: 0, to: 1440 }]) }))).toBe(
      'Desk open round the clock',
    );
  });

  it('join what touches, and refuse a day that closes before it opens, a zone that is not known, a day there is not', () => {
    const read = (more: object) => ServiceHours.safeParse({ ...usualHours('utc'), ...more });
    const week = Array.from({ length: 7 }, () => [
      { from: 780, to: 960 },
      { from: 480, to: 720 },
      { from: 720, to: 780 },
    ]);
    expect(read({ week }).data?.week[0]).toEqual([{ from: 480, to: 960 }]);
    expect(dayHoursWords(read({ week }).data!.week[0]!)).toBe('08:00 to 16:00');
    expect([dayHoursWords([]), dayHoursWords([{ from: 0, to: 1440 }])]).toEqual(['closed', 'round the clock']);
    expect(read({ week: week.map(() => [{ from: 960, to: 480 }]) }).success).toBe(false);
    expect(read({ zone: 'Europe/Nowhere' }).success).toBe(false);
    expect(read({ holidays: [{ day: '2026-02-30', words: '' }] }).success).toBe(false);
    expect(read({ week: [] }).success).toBe(false);
  });

  it('are typed as people write them, and read back what is written', () => {
    fc.assert(
      fc.property(anyDay, (quarters) => {
        const day = joined(stretches(quarters as [number, number][]));
        expect(readDayHours(dayHoursWords(day))).toEqual(day);
      }),
    );
    expect(readDayHours('8-12, 13-16:30')).toEqual([
      { from: 480, to: 720 },
      { from: 780, to: 990 },
    ]);
    expect([readDayHours(''), readDayHours('22 – 24'), readDayHours('8.30 to 9')]).toEqual([
      [],
      [{ from: 1320, to: 1440 }],
      [{ from: 510, to: 540 }],
    ]);
    for (const none of ['8', '16-8', '8-25', '8:75-9', 'morning', '8-12-16', '-']) expect(readDayHours(none), none).toBeUndefined();
  });
});
