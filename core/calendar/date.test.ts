import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  addAlways,
  addWorking,
  dateCloses,
  dateOpens,
  compileHours,
  deskCalendar,
  usualHours,
  Duration,
  isDate,
  isInstant,
  isZone,
  workingBetween,
  workingMinutes,
} from './index.ts';

describe('dates, moments, durations from outside', () => {
  it('a moment is what the pattern of RFC 3339 says, of a day that exists: held against that pattern on texts that are nearly one', () => {
    const pattern = /^(\d{4}-\d\d-\d\d)T(\d\d):(\d\d)(?::(\d\d)(?:\.\d{1,9})?)?(?:Z|[+-](\d\d):?(\d\d))$/;
    const said = (text: string): boolean => {
      const m = pattern.exec(text);
      const at = (n: number) => Number(m?.[n] ?? 0);
      return m !== null && isDate(m[1]!) && at(2) < 24 && at(3) < 60 && at(4) < 60 && at(5) < 15 && at(6) < 60;
    };
    const parts = [
      ['2026-11-28', '2026-02-29', '2024-02-29', '1899-12-31', '2026-1-02', '２026-11-28', '2026/11/28', ''],
      ['T', ' ', 't', ''],
      ['09:15', '24:00', '23:59', '9:15', '09:60', '0915'],
      ['', ':00', ':59', ':60', ':0', ':00.1', ':00.123456789', ':00.1234567890', ':00.', '.5'],
      ['Z', 'z', '', '+00:00', '+0100', '-14:59', '+15:00', '+01:60', '+1:00', '+01', '+01:0', 'Z ', '+01:000'],
    ];
    const texts = parts.reduce((begun, some) => begun.flatMap((text) => some.map((next) => text + next)), ['']);
    const other = texts.filter((text) => isInstant(text) !== said(text));
    expect([texts.length, other]).toEqual([24_960, []]);
    expect(texts.filter(said)).toHaveLength(80);
  });

  it('a day is one that exists, from 1900 to 2199, as the calendar of the language has it', () => {
    const two = (n: number) => String(n).padStart(2, '0');
    fc.assert(
      fc.property(fc.integer({ min: 1890, max: 2210 }), fc.integer({ min: 0, max: 13 }), fc.integer({ min: 0, max: 32 }), (y, m, d) => {
        const at = new Date(Date.UTC(y, m - 1, d));
        const exists = at.getUTCFullYear() === y && at.getUTCMonth() === m - 1 && at.getUTCDate() === d;
        expect(isDate(`${y}-${two(m)}-${two(d)}`)).toBe(exists && y >= 1900 && y <= 2199);
      }),
      { numRuns: 2000 },
    );
  });
  it.each(['2026-02-30', '2025-02-29', '0000-01-01', '275760-09-14', '+275760-09-13', '2026-1-1', '2026-13-01', '', 'NaN', '2026-02-30T10:00:00Z'])(
    '“%s” is none, and nothing that is due by it hangs',
    (text) => {
      const calendar = deskCalendar('Europe/Oslo');
      expect([isDate(text), isInstant(text), dateOpens(text, calendar), dateCloses(text, calendar)]).toEqual([false, false, undefined, undefined]);
      expect(() => addWorking(text, 60, calendar)).toThrow(RangeError);
      expect(() => workingBetween(text, '2026-03-02T10:00:00Z', calendar)).toThrow(RangeError);
    },
  );
  it.each(['2026-03-02T10:00:00Z', '2026-03-02T10:00:00.123+02:00', '2024-02-29T23:59Z'])('“%s” is a moment', (text) =>
    expect(isInstant(text)).toBe(true),
  );
  it.each(['2026-03-02T24:00:00Z', '2026-03-02T10:60:00Z', '2026-03-02T10:00:00', '2026-03-02T10:00:00+99:00', '2026-03-02Tnow'])(
    '“%s” is none',
    (text) => expect(isInstant(text)).toBe(false),
  );
  it.each(['P99999999D', 'P52000000W', 'PT99999999999999999999H', 'P3654D', `P${'9'.repeat(400)}D`])(
    '“%s” is longer than ten years, so it is no duration',
    (text) => {
      expect(Duration.safeParse(text).success).toBe(false);
      expect(() => workingMinutes(text)).toThrow(RangeError);
      expect(() => addAlways('2026-03-02T10:00:00Z', text)).toThrow(RangeError);
    },
  );
  it('ten years, NaN minutes, hours that are never open, a zone that is not known: an answer or an error, never for ever', () => {
    const start = '2026-03-02T10:00:00.000Z';
    expect(Duration.safeParse('P3653D').success).toBe(true);
    expect(addWorking(start, workingMinutes('P3653D'), deskCalendar('UTC')).slice(0, 4)).toBe('2040');
    for (const minutes of [NaN, Infinity, 1e18]) expect(() => addWorking(start, minutes, deskCalendar('UTC'))).toThrow(RangeError);
    expect(addWorking(start, -5, deskCalendar('UTC'))).toBe(start);
    const never = compileHours({ ...usualHours('utc'), week: [[], [], [], [], [], [], []] });
    expect(() => addWorking(start, 60, never)).toThrow(RangeError);
    expect(addWorking(start, 60, compileHours({ ...usualHours('utc'), zone: 'Sea/Nowhere' }))).toBe(addWorking(start, 60, deskCalendar('UTC')));
    expect(addWorking(start, 60, deskCalendar('Sea/Nowhere'))).toBe(addWorking(start, 60, deskCalendar('UTC')));
    expect(isZone('Atlantic/Faroe') && !isZone('Sea/Nowhere') && !isZone('')).toBe(true);
  });
  it('what is open between two moments centuries apart is counted by weeks, and by days the same', () => {
    const calendar = deskCalendar('Europe/Oslo');
    const from = '2026-01-05T07:00:00.000Z';
    let slow = 0;
    for (let day = 0; day < 400; day++) {
      const at = (n: number) => new Date(Date.parse(from) + n * 86_400_000).toISOString();
      slow += workingBetween(at(day), at(day + 1), calendar);
    }
    expect(workingBetween(from, new Date(Date.parse(from) + 400 * 86_400_000).toISOString(), calendar)).toBe(slow);
    expect(workingBetween('1900-01-01T00:00:00Z', '2199-12-31T00:00:00Z', calendar)).toBeGreaterThan(37_000_000);
  });
});
