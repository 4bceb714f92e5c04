export * from './exchange.ts';
export * from './later.ts';
export * from './listing.ts';
export * from './listed.ts';
export * from './pointer.ts';
export * from './system-list.ts';
export * from './web-system.ts';
export * from './open-api.ts';
