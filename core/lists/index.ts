export * from './list.ts';
export * from './lists.ts';
