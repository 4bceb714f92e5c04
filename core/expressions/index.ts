export * from './read.ts';
export * from './work-out.ts';
export * from './unlike.ts';
