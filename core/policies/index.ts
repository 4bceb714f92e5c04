export * from './policy.ts';
