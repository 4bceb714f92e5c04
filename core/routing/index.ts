export * from './table.ts';
export * from './compiled.ts';
