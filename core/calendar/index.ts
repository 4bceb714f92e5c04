export * from './date.ts';
export * from './day.ts';
export * from './duration.ts';
export { compileHours, deskCalendar, type Calendar } from './compiled.ts';
export * from './open.ts';
export * from './reckon.ts';
export { dayHoursWords, joined, readDayHours, ServiceHours, Stretch, usualHours, wallDay } from './service-hours.ts';
export * from './working.ts';
