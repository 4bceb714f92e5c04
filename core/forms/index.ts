export * from './answers.ts';
export * from './begun.ts';
export { outcomeOf } from './form-test.ts';
export * from './form.ts';
export { inWords } from './in-words.ts';
export * from './json-schema.ts';
export * from './kinds.ts';
export * from './sections.ts';
export * from './shape.ts';
