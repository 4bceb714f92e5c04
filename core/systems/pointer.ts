import { line } from '../boundary/index.ts';

/** A JSON Pointer (RFC 6901). */
export const Pointer = line(200).regex(/^(\/.*)?$/, 'A pointer begins with /.');

/** A path below a system's address: names in braces stand for what is put there as a segment. */
export const Segments = line(300)
  .regex(/^\/[^\s?#\\]*$/, 'A path begins with / and has no spaces, ?, # or \\.')
  .refine((p) => !p.split('/').some((s) => /^(\.|%2e){1,2}$/i.test(s)), 'A path does not climb: no . or .. between its slashes.');

/** The value a JSON Pointer names (RFC 6901); undefined where there is none. */
export function pointed(root: unknown, pointer: string): unknown {
  if (pointer === '') return root;
  return pointer
    .slice(1)
    .split('/')
    .map((s) => s.replaceAll('~1', '/').replaceAll('~0', '~'))
    .reduce<unknown>(
      (at, key) => (typeof at === 'object' && at !== null && Object.hasOwn(at, key) ? (at as Record<string, unknown>)[key] : undefined),
      root,
    );
}
