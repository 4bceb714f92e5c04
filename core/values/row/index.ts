import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { toldApart, type Plain, type ValueRoom } from '../room.ts';

/** What names a reference table: letters, digits and a few marks, without the slash that parts it from the key of a row. */
export const TableId = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_.-]{0,99}$/, 'This is not a table.');
/** The longest key of a row, in characters. */
export const longestKey = 300;

/**
 * One row of a reference table: the table, and the row's key as `keyOf` (core/tables) writes it. What stands in the row's
 * columns is not part of it: that is read when it is used.
 */
export const Row = z.object({ table: TableId, key: line(longestKey).min(1) });
export type Row = z.infer<typeof Row>;

/** Whether a value is a table row. */
export const isRow = (v: unknown): v is Row => typeof v === 'object' && v !== null && 'table' in v;
/** The one text that names a row among all tables. */
export const rowId = (v: Row): string => `${v.table}/${v.key}`;
/** The row that `rowId` named; undefined where a text names none. */
export function rowOfId(id: string): Row | undefined {
  const at = id.indexOf('/');
  const read = Row.safeParse({ table: id.slice(0, Math.max(0, at)), key: id.slice(at + 1) });
  return read.success ? read.data : undefined;
}

/** The room of this type; `room.ts` says what each member means. */
export const row: ValueRoom<Row> = {
  words: 'table row',
  must: 'must be a table row',
  schema: Row,
  is: isRow,
  // A key is readable by itself: it says what the row was where the table is not known any more.
  say: (v, names) => names('row', rowId(v)) ?? v.key,
  typed: rowOfId,
  plain: (v) => ({ table: v.table, key: v.key }),
  fromPlain: (plain: Plain) => {
    const read = Row.safeParse(plain);
    return read.success ? read.data : undefined;
  },
  expression: (v) => v.key,
  json: {
    type: 'object',
    properties: { table: { type: 'string', minLength: 1, maxLength: 100 }, key: { type: 'string', minLength: 1, maxLength: longestKey } },
    required: ['table', 'key'],
    additionalProperties: false,
  },
  named: (v) => ({ kind: 'row', id: rowId(v) }),
  stretches: ({ values, ordered }) => {
    const stated = [...values, ...ordered].filter(isRow);
    const table = stated[0]?.table ?? 'any';
    return toldApart(stated, (a, b) => rowId(a) === rowId(b), [
      { table, key: 'another row' },
      { table, key: 'yet another row' },
    ]);
  },
};
