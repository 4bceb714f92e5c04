export * from './file-name.ts';
