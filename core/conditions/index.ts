export * from './condition.ts';
export * from './words.ts';
export * from './ranges.ts';
export * from './mismatches.ts';
