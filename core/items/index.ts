export * from './definition.ts';
export * from './study.ts';
