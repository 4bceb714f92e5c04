import { z } from 'zod';

/** A person or a group is held by its id; names are looked up when shown, so a renamed person stays one person. */
export const PersonValue = z.object({ person: z.string() });
export const GroupValue = z.object({ group: z.string() });

/** Anything an answer, an output or a literal can hold. `null` means: asked, and left empty. */
export const Value = z.union([z.string(), z.number(), z.boolean(), z.null(), PersonValue, GroupValue]);
export type Value = z.infer<typeof Value>;

export const ValueType = z.enum(['text', 'choice', 'boolean', 'number', 'instant', 'person', 'group', 'address']);
export type ValueType = z.infer<typeof ValueType>;

export const isPerson = (v: unknown): v is { person: string } => typeof v === 'object' && v !== null && 'person' in v;
export const isGroup = (v: unknown): v is { group: string } => typeof v === 'object' && v !== null && 'group' in v;

/** Empty is: absent, null, or a text of nothing but spaces. */
export const isEmpty = (v: Value | undefined): boolean => v === undefined || v === null || (typeof v === 'string' && v.trim() === '');

/** Equality of values by content; persons and groups by id. */
export function sameValue(a: Value | undefined, b: Value | undefined): boolean {
  if (isPerson(a) && isPerson(b)) return a.person === b.person;
  if (isGroup(a) && isGroup(b)) return a.group === b.group;
  return (a ?? null) === (b ?? null);
}
