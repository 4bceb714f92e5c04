import { address } from './address/index.ts';
import { boolean } from './boolean/index.ts';
import { choice } from './choice/index.ts';
import { date } from './date/index.ts';
import { entry } from './entry/index.ts';
import { file } from './file/index.ts';
import { formattedText } from './formatted/index.ts';
import { group } from './group/index.ts';
import { holding } from './holding/index.ts';
import { instant } from './instant/index.ts';
import { location } from './location/index.ts';
import { money } from './money/index.ts';
import { number } from './number/index.ts';
import { person } from './person/index.ts';
import { phone } from './phone/index.ts';
import type { ValueRoom } from './room.ts';
import { row } from './row/index.ts';
import { team } from './team/index.ts';
import { text } from './text/index.ts';
import { time } from './time/index.ts';

/** The rooms of the types of one thing, in the order in which screens offer them. */
export const rooms = {
  text,
  choice,
  boolean,
  number,
  date,
  instant,
  time,
  person,
  group,
  address,
  phone,
  money,
  location,
  team,
  row,
  file,
  entry,
  formatted: formattedText,
  holding,
} as const;
/** The types of one thing. */
export type SingleType = keyof typeof rooms;
/** What a value of a type looks like. */
type ValueOf<T extends SingleType> = (typeof rooms)[T] extends ValueRoom<infer V> ? V : never;
/** One thing of any type. */
export type Single = { [T in SingleType]: ValueOf<T> }[SingleType];

/** The types of lists: what a list of them holds, and how sentences name it. */
export const lists = {
  texts: { row: 'text', words: 'list of texts' },
  people: { row: 'person', words: 'list of people' },
  numbers: { row: 'number', words: 'list of numbers' },
  dates: { row: 'date', words: 'list of dates' },
  instants: { row: 'instant', words: 'list of times' },
  groups: { row: 'group', words: 'list of groups' },
  addresses: { row: 'address', words: 'list of mail addresses' },
  sums: { row: 'money', words: 'list of sums of money' },
  locations: { row: 'location', words: 'list of places' },
  teams: { row: 'team', words: 'list of teams' },
  rows: { row: 'row', words: 'list of table rows' },
  files: { row: 'file', words: 'list of files' },
  entries: { row: 'entry', words: 'list of lines' },
} as const satisfies Record<string, { row: SingleType; words: string }>;
/** The types of lists. */
export type ListType = keyof typeof lists;

/** The room of a type, as one that takes any value: whoever asks hands it values of that type only. */
export const roomOf = (type: SingleType): ValueRoom<Single> => rooms[type] as unknown as ValueRoom<Single>;

/** What marks a value that is not a text, a number, or yes or no. */
const discriminants: Record<string, SingleType> = {
  person: 'person',
  group: 'group',
  location: 'location',
  team: 'team',
  amount: 'money',
  decimal: 'number',
  table: 'row',
  file: 'file',
  entry: 'entry',
  formatted: 'formatted',
  holding: 'holding',
};
/**
 * The room that a value belongs to by its shape alone: a text may be of any type of text. Values of different shapes
 * cannot be compared.
 */
export function shapeOf(v: Single): SingleType {
  if (typeof v === 'object') return discriminants[Object.keys(v).find((key) => Object.hasOwn(discriminants, key)) ?? ''] ?? 'text';
  return typeof v === 'number' ? 'number' : typeof v === 'boolean' ? 'boolean' : 'text';
}
