export * from './condition.ts';
