export * from './status-map.ts';
export * from './check.ts';
export * from './drawing.ts';
