export * from './form.ts';
