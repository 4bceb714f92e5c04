import type { Field } from './form.ts';

/** The one field of a form that is answered in words alone, by mail say; undefined where it asks for more, or for something else. */
export function inWords(fields: readonly Field[] | null | undefined): Field | undefined {
  const [only, ...more] = fields ?? [];
  return only && more.length === 0 && (only.kind === 'text' || only.kind === 'longText') ? only : undefined;
}
