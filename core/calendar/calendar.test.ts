import { describe, expect, it } from 'vitest';
import { deskCalendar, deskOpen, Duration, meanMinutes, minutesWords, workingMinutes } from './index.ts';

describe('durations (ISO 8601)', () => {
  it.each([
    ['PT15M', 15],
    ['PT1H30M', 90],
    ['P1D', 480],
    ['P1W', 2400],
    ['P2DT30S', 960.5],
    ['PT0S', 0],
  ])('%s is %d working minutes', (iso, minutes) => {
    expect(workingMinutes(iso)).toBe(minutes);
  });
  it.each(['P', 'PT', 'P1M', 'P1Y', '15', 'PT-5M', ''])('refuses %s', (iso) => {
    expect(Duration.safeParse(iso).success).toBe(false);
    expect(() => workingMinutes(iso)).toThrow(RangeError);
  });
  it('read in two units', () => {
    expect([0, 0.5, 35, 90, 1170].map(minutesWords)).toEqual(['0 min', '30 s', '35 min', '1 h 30 min', '2 d 3 h']);
  });
  it('weigh a three-point estimate as PERT does (Malcolm et al. 1959)', () => {
    expect(meanMinutes({ min: 'PT10M', likely: 'PT20M', max: 'PT60M' })).toBe(25);
  });
});

describe('whether the desk is open', () => {
  it.each([
    ['2026-03-27T08:30:00Z', 'Europe/Oslo', true, 'Desk open until 16:00'],
    // The same instant after the clocks went forward on 2026-03-29 is an hour later on the wall.
    ['2026-03-30T14:30:00Z', 'Europe/Oslo', false, 'Desk opens tomorrow at 08:00'],
    ['2026-03-27T14:30:00Z', 'Europe/Oslo', true, 'Desk open until 16:00'],
    ['2026-03-27T16:30:00Z', 'Atlantic/Faroe', false, 'Desk opens Monday at 08:00'],
    ['2026-03-29T12:00:00Z', 'Europe/Oslo', false, 'Desk opens tomorrow at 08:00'],
    ['2026-03-30T05:30:00Z', 'Europe/Oslo', false, 'Desk opens at 08:00'],
  ])('%s in %s', (now, zone, open, words) => {
    expect(deskOpen(now, deskCalendar(zone))).toEqual({ open, words });
  });
});
