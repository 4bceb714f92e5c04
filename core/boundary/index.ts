export * from './text.ts';
export * from './json.ts';
export * from './own.ts';
export * from './same.ts';
