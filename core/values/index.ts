export * from './value.ts';
export * from './reference.ts';
export * from './rich-text.ts';
