export * from './definition.ts';
