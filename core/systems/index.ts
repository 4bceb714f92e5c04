export * from './web-system.ts';
