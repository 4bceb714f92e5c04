import { z } from 'zod';
import { text } from '../boundary/index.ts';
import { isDate, isInstant } from '../calendar/index.ts';

/** What names a thing that is kept: letters, digits and a few marks, as the identifiers of the database and of the tests have them. */
export const Key = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_.:~#/-]{0,199}$/, 'This is not an identifier.');

/** A person or a group is held by its id; names are looked up when shown, so a renamed person stays one person. */
export const PersonValue = z.object({ person: Key });
/** A group, by its id. */
export const GroupValue = z.object({ group: Key });

/** The longest text that a value may be, in characters. */
export const longestText = 20_000;

/** One thing: a text (dates and instants too, as ISO 8601), a number, yes or no, a person, a group. */
export const Single = z.union([text(longestText), z.number(), z.boolean(), PersonValue, GroupValue]);
export type Single = z.infer<typeof Single>;

/** Anything an answer, an output or a literal can hold. `null` means: asked, and left empty. */
export const Value = z.union([Single, z.null(), z.array(Single).max(1000)]);
export type Value = z.infer<typeof Value>;

/** The list types `texts` and `people` hold several of `text` and `person`. */
export const ValueType = z.enum(['text', 'choice', 'boolean', 'number', 'date', 'instant', 'person', 'group', 'address', 'texts', 'people']);
export type ValueType = z.infer<typeof ValueType>;

/** The type of one row of a list; undefined for what is not a list. */
export const rowType = (type: ValueType): ValueType | undefined => (type === 'people' ? 'person' : type === 'texts' ? 'text' : undefined);

/** Whether a value is a person. */
export const isPerson = (v: unknown): v is { person: string } => typeof v === 'object' && v !== null && 'person' in v;
/** Whether a value is a group. */
export const isGroup = (v: unknown): v is { group: string } => typeof v === 'object' && v !== null && 'group' in v;

/** Empty is: absent, null, a text of nothing but spaces, or a list of nothing. */
export const isEmpty = (v: Value | undefined): boolean =>
  v === undefined || v === null || (typeof v === 'string' && v.trim() === '') || (Array.isArray(v) && v.length === 0);

/** Equality of values by content; persons and groups by id; lists in order. */
export function sameValue(a: Value | undefined, b: Value | undefined): boolean {
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => sameValue(x, b[i]));
  if (isPerson(a) && isPerson(b)) return a.person === b.person;
  if (isGroup(a) && isGroup(b)) return a.group === b.group;
  return (a ?? null) === (b ?? null);
}

const shapes: Record<ValueType, (v: Single) => boolean> = {
  text: (v) => typeof v === 'string',
  choice: (v) => typeof v === 'string',
  address: (v) => typeof v === 'string',
  date: (v) => typeof v === 'string' && isDate(v),
  instant: (v) => typeof v === 'string' && isInstant(v),
  number: (v) => typeof v === 'number' && Number.isFinite(v),
  boolean: (v) => typeof v === 'boolean',
  person: isPerson,
  group: isGroup,
  texts: (v) => typeof v === 'string',
  people: isPerson,
};

/** Whether a value is of a type. Empty is of every type. */
export function isOfType(v: Value | undefined, type: ValueType): boolean {
  if (isEmpty(v)) return true;
  if (rowType(type)) return Array.isArray(v) && v.every((x) => shapes[type](x));
  return !Array.isArray(v) && shapes[type](v as Single);
}

/** Types as sentences name them. */
export const typeWords: Record<ValueType, string> = {
  text: 'text',
  choice: 'choice',
  boolean: 'yes or no',
  number: 'number',
  date: 'date',
  instant: 'time',
  person: 'person',
  group: 'group',
  address: 'mail address',
  texts: 'list of texts',
  people: 'list of people',
};

/** The ids of the persons and groups a value holds. */
export const idsIn = (v: Value | undefined): string[] =>
  (Array.isArray(v) ? v : [v]).flatMap((x) => (isPerson(x) ? [x.person] : isGroup(x) ? [x.group] : []));
