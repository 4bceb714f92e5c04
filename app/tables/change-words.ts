import type { TableDefinition } from '../../core/tables/index.ts';
import { valueWords, type Value } from '../../core/values/index.ts';

/** One change as a sentence: which column, what stood there, what stands there. */
export function changeWords(
  c: { column: string | null; was: Value | null; now: Value | null },
  { columns }: TableDefinition,
  names: Record<string, string>,
): string {
  if (c.column === null) return c.now ? 'The row was put in.' : 'The row was taken off.';
  const column = columns.find((x) => x.id === c.column);
  const words = (v: Value | null) => valueWords(v, (_, id) => names[id], column?.options);
  const label = column?.label ?? 'A column that is gone';
  if (c.was === null) return `${label}: ${words(c.now)}`;
  return c.now === null ? `${label} was emptied; it said ${words(c.was)}` : `${label}: ${words(c.was)} became ${words(c.now)}`;
}
