import { z } from 'zod';
import { Id } from '../id.ts';
import { address } from '../address/index.ts';
import { Formatted } from '../formatted/index.ts';
import { group } from '../group/index.ts';
import { location } from '../location/index.ts';
import { Money } from '../money/index.ts';
import { NumberValue } from '../number/index.ts';
import { person } from '../person/index.ts';
import type { Plain, ValueRoom } from '../room.ts';
import { team } from '../team/index.ts';

/** What one column of a line can hold: one thing of any type but a line; null where it was left empty. */
export const Cell = z.union([
  address.schema,
  NumberValue,
  z.boolean(),
  person.schema,
  group.schema,
  location.schema,
  team.schema,
  Money,
  Formatted,
  z.null(),
]);
export type Cell = z.infer<typeof Cell>;

/** A line of several values, each under the key of its column: what somebody filled in, one row of a small table. */
export const Entry = z.object({
  entry: z.record(Id, Cell).refine((cells) => Object.keys(cells).length <= 20, 'A line has at most twenty columns.'),
});
export type Entry = z.infer<typeof Entry>;

/** Whether a value is a line. */
export const isEntry = (v: unknown): v is Entry => typeof v === 'object' && v !== null && 'entry' in v;

/** The room of this type; `room.ts` says what each member means. */
export const entry: ValueRoom<Entry> = {
  words: 'line of values',
  must: 'must be a line of values',
  schema: Entry,
  is: isEntry,
  inside: (v) => v.entry,
  // Never asked: what it holds is said, value by value, by whoever says it.
  say: () => '',
  typed: () => undefined,
  fromPlain: (plain: Plain) => {
    const read = Entry.safeParse(isEntry(plain) ? plain : { entry: plain });
    return read.success ? read.data : undefined;
  },
  json: { type: 'object', maxProperties: 20 },
};
