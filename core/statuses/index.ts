export * from './status-map.ts';
export * from './check.ts';
