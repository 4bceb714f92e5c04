import ical from 'ical-generator';
import { describe, expect, it } from 'vitest';
import { readHolidays } from './holidays.ts';

const calendar = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Skerrin//Holidays//EN', ...lines, 'END:VCALENDAR'].join('\r\n');
const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:1@skerrin.example', 'DTSTAMP:20260101T000000Z', ...lines, 'END:VEVENT'];
const years = { from: 2026, to: 2028 };

describe('holidays of an iCalendar file', () => {
  it('are what an independent writer of such files put in (ical-generator)', () => {
    const written = ical({ name: 'Holidays' });
    written.createEvent({ start: new Date('2026-05-14T00:00:00Z'), end: new Date('2026-05-15T00:00:00Z'), allDay: true, summary: 'Ascension Day' });
    written.createEvent({
      start: new Date('2026-12-25T00:00:00Z'),
      end: new Date('2026-12-27T00:00:00Z'),
      allDay: true,
      summary: 'Christmas, both days',
    });
    written.createEvent({ start: new Date('2026-06-01T08:00:00Z'), end: new Date('2026-06-01T09:00:00Z'), summary: 'A meeting' });
    expect(readHolidays(written.toString(), years)).toEqual({
      ok: true,
      passedOver: 1,
      holidays: [
        { day: '2026-05-14', words: 'Ascension Day' },
        { day: '2026-12-25', words: 'Christmas, both days' },
        { day: '2026-12-26', words: 'Christmas, both days' },
      ],
    });
  });

  it('come every year they come in, but for those that are left out (RFC 5545, 3.8.5; the rules of its examples)', () => {
    const yearly = calendar(...event('DTSTART;VALUE=DATE:19970517', 'RRULE:FREQ=YEARLY', 'EXDATE;VALUE=DATE:20270517', 'SUMMARY:Day of the charter'));
    expect(readHolidays(yearly, years)).toMatchObject({ holidays: [{ day: '2026-05-17' }, { day: '2028-05-17' }] });
    // The fourth Thursday of November, as the standard's example of such a rule has it.
    const thursday = calendar(...event('DTSTART;VALUE=DATE:20201126', 'RRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=4TH', 'SUMMARY:Harbour day'));
    expect(readHolidays(thursday, years)).toMatchObject({ holidays: [{ day: '2026-11-26' }, { day: '2027-11-25' }, { day: '2028-11-23' }] });
  });

  it('with folded lines and escaped words are read; cancelled ones are not', () => {
    const folded = calendar(
      ...event('DTSTART;VALUE=DATE:20260601', 'SUMMARY:Day of the sea\\, and of tho', ' se who sail it'),
      ...event('DTSTART;VALUE=DATE:20260602', 'STATUS:CANCELLED', 'SUMMARY:No more'),
    );
    expect(readHolidays(folded, years)).toEqual({
      ok: true,
      passedOver: 1,
      holidays: [{ day: '2026-06-01', words: 'Day of the sea, and of those who sail it' }],
    });
  });

  it('refuses what is no calendar, is cut off, or is too large; a rule without end ends', () => {
    for (const none of ['', 'hello', 'BEGIN:VCALENDAR\r\nBEGIN:VEVENT', '\u0000', 'x'.repeat(1_000_001)])
      expect(readHolidays(none, years).ok, none.slice(0, 20)).toBe(false);
    const daily = calendar(...event('DTSTART;VALUE=DATE:18000101', 'RRULE:FREQ=DAILY', 'SUMMARY:Every day'));
    expect(readHolidays(daily, years)).toMatchObject({ ok: true });
    expect(readHolidays(calendar(...event('DTSTART;VALUE=DATE:20261340', 'SUMMARY:x')), years).ok).toBe(true);
  });
});
