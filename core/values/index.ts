export * from './value.ts';
export * from './reference.ts';
