export * from './user-name.ts';
