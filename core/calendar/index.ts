export * from './date.ts';
export * from './day.ts';
export * from './duration.ts';
export * from './open.ts';
export * from './reckon.ts';
export * from './working.ts';
