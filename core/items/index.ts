export * from './back-to.ts';
export * from './categories.ts';
export * from './compare.ts';
export * from './definition.ts';
export * from './study.ts';
export * from './audience.ts';
export * from './on-behalf.ts';
export { templates, type Template } from './templates.ts';
