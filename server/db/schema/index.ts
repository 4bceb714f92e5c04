export * from './people.ts';
export * from './items.ts';
export * from './runs.ts';
export * from './log.ts';
