export * from './duration.ts';
export * from './open.ts';
