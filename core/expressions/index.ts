export * from './read.ts';
export * from './work-out.ts';
