import { z } from 'zod';
import { own } from '../boundary/index.ts';
import { Duration, secondsOf } from '../calendar/index.ts';
import { compile, Condition, conditionReferences, mismatches } from '../conditions/index.ts';
import { fieldType, type Column, type Form } from '../forms/index.ts';
import { Id, Key } from '../values/index.ts';

/** What is asked for by itself, once for a row of a table that is read, when the row says something. */
export const RowAsking = z.object({
  /** The item; a field of its form takes the row. */
  item: Key,
  /** Reads `row.<column>`. */
  when: Condition,
  /** The column of the person who asks. */
  by: Id.optional(),
  /** Who asks where the row names nobody who works here. */
  orBy: z.object({ person: Key }),
  /** For the same row not again before so long has passed (ISO 8601). */
  again: Duration.refine((d) => secondsOf(d) >= 3600, 'An hour at least.').refine((d) => secondsOf(d) <= 3650 * 86_400, 'Ten years at most.'),
});
export type RowAsking = z.infer<typeof RowAsking>;

interface Read {
  columns: readonly Pick<Column, 'id' | 'label' | 'kind' | 'options'>[];
  from?: unknown;
  asks?: RowAsking | undefined;
}

/** What is wrong with what follows the rows of a table. */
export function checkAsking({ columns, from, asks }: Read): string[] {
  if (!asks) return [];
  if (!from) return ['Nothing follows the rows of a table that people keep: have it read from a system, or let nothing follow.'];
  const of = (id: string) => columns.find((c) => c.id === id);
  const lost = [...conditionReferences(asks.when)].some((ref) => !ref.startsWith('row.') || !of(ref.slice(4)));
  const places = new Map(columns.map((c) => [`row.${c.id}`, { label: c.label, type: fieldType(c.kind), options: c.options }] as const));
  return [
    ...mismatches(asks.when, places).map((wrong) => `What follows a row ${wrong}. Compare it with a value of its own kind.`),
    ...(lost ? ['What follows a row reads a column that is not there any more.'] : []),
    ...(asks.by !== undefined && of(asks.by)?.kind !== 'person' ? ['Who asks is named by a column that is no person.'] : []),
  ];
}

/** The keys of the rows of which the condition holds; `row.<column>` is what stands in the row. */
export function rowsThatHold(when: Condition, rows: ReadonlyMap<string, Readonly<Record<string, unknown>>>): string[] {
  const holds = compile(when);
  return [...rows].flatMap(([key, cells]) => (holds((ref) => own(cells, ref.slice(4)) as never) ? [key] : []));
}

/**
 * The field of a form that takes a row of the table; undefined where the form asks for anything else that nobody would be there to answer,
 * or could take the row in two places.
 */
export function fieldForRow({ fields }: Pick<Form, 'fields'>, table: string): string | undefined {
  const [field, another] = fields.filter((f) => f.kind === 'row' && f.table === table && !f.visibleWhen && !f.held);
  if (!field || another) return undefined;
  const open = fields.some((f) => f !== field && f.required && !f.visibleWhen && !f.held && !f.prefill && f.default === undefined);
  return open ? undefined : field.id;
}

/** What follows a row, with columns that were named anew under the ids they got. */
export function askingNamed(asks: RowAsking, ids: ReadonlyMap<string, string>): RowAsking {
  const when = JSON.parse(JSON.stringify(asks.when), (key, value: unknown) =>
    key === 'ref' && typeof value === 'string' ? `row.${ids.get(value.slice(4)) ?? value.slice(4)}` : value,
  ) as Condition;
  return { ...asks, when, ...(asks.by !== undefined && { by: ids.get(asks.by) ?? asks.by }) };
}
