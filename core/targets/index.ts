export * from './edit.ts';
export * from './priority.ts';
export * from './promise.ts';
export * from './tide.ts';
