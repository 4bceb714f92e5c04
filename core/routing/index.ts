export * from './analyse.ts';
export * from './compiled.ts';
export * from './domain.ts';
export * from './table.ts';
export * from './winning.ts';
export * from './words.ts';
