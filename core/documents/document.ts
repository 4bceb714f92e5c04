import type { z } from 'zod';

/** Plain JSON as it came out of the store. */
export type Stored = Record<string, unknown>;

/**
 * A kind of document that is kept: its present version, its schema, and what lifts a document of each older version to the
 * next. A version is a shape that was once written; a document says which one it has, and one that says nothing has the first.
 */
export interface Format<T> {
  name: string;
  version: number;
  schema: z.ZodType<T>;
  /** By version: what makes of a document of that version one of the next. */
  lifts: Record<number, (old: Stored) => Stored>;
}

/** A stored document that is none any more, with what is wrong with it. */
export class Unreadable extends Error {}

/**
 * A document as the code of today knows it: lifted step by step to the present version, and parsed. Throws Unreadable where it
 * is of a version that this code does not know yet, or does not fit.
 */
export function readDocument<T>(format: Format<T>, stored: unknown): T {
  if (typeof stored !== 'object' || stored === null || Array.isArray(stored)) throw new Unreadable(`This is no ${format.name}.`);
  const { format: said, ...rest } = stored as Stored;
  let version = typeof said === 'number' ? said : 1;
  if (version > format.version)
    throw new Unreadable(`This ${format.name} was written by a newer Nessmoor (format ${version}; known here are those up to ${format.version}).`);
  let document: Stored = rest;
  for (; version < format.version; version++) document = format.lifts[version]!(document);
  const parsed = format.schema.safeParse(document);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new Unreadable(`This ${format.name} cannot be read: ${issue?.message ?? 'it does not fit'} (${issue?.path.join(' › ') ?? ''}).`);
}

/** A document as it is kept, with its version. */
export const keptDocument = <T extends object>(format: Format<T>, document: T): Stored => ({ ...document, format: format.version });
