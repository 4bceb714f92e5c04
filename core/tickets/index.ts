export * from './dates.ts';
export * from './kind.ts';
export * from './links.ts';
export * from './move-gate.ts';
export * from './moving.ts';
export * from './shipped.ts';
export * from './state.ts';
export * from './words.ts';
