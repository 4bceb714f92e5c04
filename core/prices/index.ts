export * from './line.ts';
export * from './price.ts';
