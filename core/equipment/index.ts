export * from './allot.ts';
export * from './count.ts';
