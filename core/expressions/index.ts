export * from './feel.ts';
