import { usualHours, wallDay, type ServiceHours } from '../core/calendar/index.ts';

const years = [2026, 2027, 2028];
const yearly = (days: [string, string][]) => years.flatMap((year) => days.map(([day, words]) => ({ day: `${year}-${day}`, words })));
const common: [string, string][] = [
  ['01-01', 'New Year'],
  ['12-25', 'Christmas Day'],
  ['12-26', 'Second day of Christmas'],
];

/** Of Torvay, and of everybody who has none nearer. */
export const torvayHours: ServiceHours = {
  ...usualHours('Atlantic/Faroe'),
  name: 'Torvay',
  exceptions: years.map((year) => ({ day: `${year}-12-24`, hours: [{ from: 8 * 60, to: 12 * 60 }], words: 'Christmas Eve' })),
  holidays: yearly([...common, ['06-12', 'Charter day']]),
};

/** Lunnick closes at half past three, and has a day of its own. */
export const lunnickHours: ServiceHours = {
  ...usualHours('Europe/Oslo'),
  name: 'Lunnick',
  week: torvayHours.week.map((day) => day.map((s) => ({ ...s, to: 15 * 60 + 30 }))),
  exceptions: torvayHours.exceptions,
  holidays: yearly([...common, ['05-20', 'Station day']]),
};

/** At sea somebody always has the watch. */
export const watchHours: ServiceHours = {
  ...usualHours('Atlantic/Faroe'),
  name: 'The watch at sea',
  week: Array.from({ length: 7 }, () => [{ from: 0, to: wallDay }]),
};
