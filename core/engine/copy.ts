import { setOwn } from '../boundary/index.ts';

/**
 * A copy of plain JSON, down to its leaves; several times as fast as the language's own structured clone, which has to look out
 * for what JSON cannot hold. Names that every object answers to (`__proto__`) stay names of their own.
 */
export function copyOf<T>(value: T): T {
  if (typeof value !== 'object' || value === null) return value;
  if (Array.isArray(value)) {
    const list: unknown[] = new Array(value.length);
    for (let i = 0; i < value.length; i++) list[i] = copyOf(value[i] as unknown);
    return list as T;
  }
  const copy: Record<string, unknown> = {};
  for (const key of Object.keys(value)) {
    const inner = copyOf((value as Record<string, unknown>)[key]);
    // What is undefined is not there in JSON either.
    if (inner === undefined) continue;
    if (key === '__proto__') setOwn(copy, key, inner);
    else copy[key] = inner;
  }
  return copy as T;
}
