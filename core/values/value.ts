import { z } from 'zod';
import { own } from '../boundary/index.ts';
import { isDate } from '../calendar/index.ts';
import { Entry } from './entry/index.ts';
import { file } from './file/index.ts';
import { Formatted } from './formatted/index.ts';
import { group } from './group/index.ts';
import { holding } from './holding/index.ts';
import { date } from './date/index.ts';
import { isMoment, instant } from './instant/index.ts';
import { location } from './location/index.ts';
import { Money } from './money/index.ts';
import { NumberValue } from './number/index.ts';
import { person } from './person/index.ts';
import type { Expressed, NamedKind, OrderWords, Plain, ValueNames } from './room.ts';
import { lists, roomOf, rooms, shapeOf, type ListType, type Single as AnySingle, type SingleType } from './rooms.ts';
import { row } from './row/index.ts';
import { team } from './team/index.ts';
import { text } from './text/index.ts';

/** A person or a group is held by its id; names are looked up when shown, so a renamed person stays one person. */
export const PersonValue = person.schema as z.ZodType<{ person: string }>;
/** The schema of one place. */
export const LocationValue = location.schema as z.ZodType<{ location: string }>;
/** The schema of one group. */
export const GroupValue = group.schema as z.ZodType<{ group: string }>;

/** One thing: a text (dates and instants too, as ISO 8601), a number, yes or no, money, or something held by its id. */
export const Single: z.ZodType<AnySingle> = z.union([
  text.schema,
  NumberValue,
  z.boolean(),
  person.schema,
  group.schema,
  location.schema,
  team.schema,
  Money,
  row.schema,
  file.schema,
  Entry,
  Formatted,
  holding.schema,
]) as unknown as z.ZodType<AnySingle>;
export type Single = AnySingle;

/** Anything an answer, an output or a literal can hold. `null` means: asked, and left empty. */
export const Value = z.union([Single, z.null(), z.array(Single).max(1000)]);
export type Value = z.infer<typeof Value>;

/** A row as it was read: what stood in its columns, by their keys; null where there was no such row. */
export const RowRead = row.schema.and(z.object({ cells: z.record(z.string(), Value).nullable() }));
export type RowRead = z.infer<typeof RowRead>;

/** The types of lists. */
export const listTypes = Object.keys(lists) as ListType[];
/** The types of values: of one thing, and of lists. */
export const ValueType = z.enum([...(Object.keys(rooms) as SingleType[]), ...listTypes]);
export type ValueType = SingleType | ListType;

const isList = (type: ValueType): type is ListType => Object.hasOwn(lists, type);
/** The type of one row of a list; undefined for what is not a list. */
export const rowType = (type: ValueType): SingleType | undefined => (isList(type) ? lists[type].row : undefined);
/** The room of a type, or that of the rows of a list. */
const roomFor = (type: ValueType) => roomOf(isList(type) ? lists[type].row : type);

/** Whether a value is a person. */
export const isPerson = person.is;
/** Whether a value is a team. */
export const isTeam = team.is;
/** Whether a value is a place. */
export const isLocation = location.is;
/** Whether a value is a group. */
export const isGroup = group.is;
/** Whether a value is a holding. */
export const isHolding = holding.is;

/** The values that a value is made of, by their names; undefined where it is one. */
const insideOf = (v: Single): Readonly<Record<string, Single | null>> | undefined =>
  roomOf(shapeOf(v)).inside?.(v) as Readonly<Record<string, Single | null>> | undefined;

/** Empty is: absent, null, a text of nothing but spaces, a line with nothing in it, or a list of nothing else. */
export function isEmpty(v: Value | undefined): v is null | undefined | '' | [] {
  if (v === undefined || v === null) return true;
  if (typeof v === 'string') return v.trim() === '';
  if (Array.isArray(v)) return v.every((x) => isMadeOfNothing(x));
  return isMadeOfNothing(v);
}
const isMadeOfNothing = (v: Single): boolean => {
  const inside = typeof v === 'object' ? insideOf(v) : undefined;
  return inside !== undefined && Object.values(inside).every((x) => isEmpty(x));
};

/** Equality of values by content: numbers and sums by what they say, what is held by an id by that; lists in order. */
export function sameValue(a: Value | undefined, b: Value | undefined): boolean {
  if (Array.isArray(a) || Array.isArray(b))
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((x, i) => sameValue(x, b[i]));
  if (typeof a !== 'object' && typeof b !== 'object') return (a ?? null) === (b ?? null);
  if (a === null || a === undefined || b === null || b === undefined) return (a ?? null) === (b ?? null);
  const shape = shapeOf(a);
  if (shape !== shapeOf(b)) return false;
  const [cells, others] = [insideOf(a), insideOf(b)];
  if (cells && others)
    return [...new Set([...Object.keys(cells), ...Object.keys(others)])].every((name) => sameValue(own(cells, name), own(others, name)));
  const { same, order, named } = roomOf(shape);
  return same ? same(a, b) : order ? order(a, b) === 0 : named?.(a).id === named?.(b).id;
}

/** Which of two values comes first: below 0, 0 or above; null where that cannot be told: their kinds differ, or have no order. */
export function orderOf(a: Value | undefined, b: Value | undefined): number | null {
  if (a === null || a === undefined || b === null || b === undefined || Array.isArray(a) || Array.isArray(b)) return null;
  const shape = shapeOf(a);
  return shape === shapeOf(b) ? (roomOf(shape).order?.(a, b) ?? null) : null;
}

/** Whether two values that are not empty can be said to be the same or not: both lists, or of one shape. */
export const areComparable = (a: Value, b: Value): boolean =>
  Array.isArray(a) || Array.isArray(b) ? Array.isArray(a) && Array.isArray(b) : a !== null && b !== null && shapeOf(a) === shapeOf(b);

/** Whether values of a type have an order. */
export const isOrdered = (type: ValueType): boolean => !isList(type) && roomOf(type).order !== undefined;
/** Whether two types can be compared with each other: the same, or both of them texts. */
export const areAlike = (a: ValueType, b: ValueType): boolean => a === b || (texts.has(a) && texts.has(b));
const texts = new Set<ValueType>(['text', 'choice', 'address', 'phone']);

/** The types whose values do where one of this type is wanted: its own, and for a text whatever is written as one. */
export const fitsFor = (wanted: ValueType): ValueType[] => (wanted === 'text' ? ['text', 'choice', 'address', 'phone', 'date', 'time'] : [wanted]);

/** Whether a value is of a type. Empty is of every type. */
export function isOfType(v: Value | undefined, type: ValueType): boolean {
  if (isEmpty(v)) return true;
  const { is } = roomFor(type);
  return isList(type) ? Array.isArray(v) && v.every((x) => is(x)) : !Array.isArray(v) && is(v);
}

/** Types as sentences name them. */
export const typeWords = Object.fromEntries(ValueType.options.map((type) => [type, isList(type) ? lists[type].words : roomOf(type).words])) as Record<
  ValueType,
  string
>;
/** The end of a sentence about a value that is not of a type: "must be …". */
export const mustBe = (type: ValueType): string => (isList(type) ? `must be a ${lists[type].words}` : roomOf(type).must);

/** The labels of choices. */
type Labels = readonly { value: string; label: string }[];

/**
 * A value in words; `options` are the labels of a choice, `columns` have those of each column of a line, and what a yes or no of
 * it is about; a moment is said in the reader's `zone` (of the tz database), in UTC by that name where none is known. Nothing is said
 * of what is empty.
 */
export function valueWords(
  value: Value | undefined,
  names: ValueNames,
  options?: Labels,
  columns: readonly { id: string; label?: string; options?: Labels | undefined }[] = [],
  zone?: string,
): string {
  if (isEmpty(value)) return '';
  if (Array.isArray(value)) {
    const lines = value.map((v) => valueWords(v, names, options, columns, zone)).filter(Boolean);
    return lines.join(value.some((v) => insideOf(v)) ? '; ' : ', ');
  }
  const inside = insideOf(value);
  if (inside) {
    // In the order of the columns: how the keys of a line are kept says nothing.
    const order = columns.length > 0 ? columns : Object.keys(inside).map((id) => ({ id, label: undefined, options: undefined }));
    return order
      .map(({ id, label: about, options: of }) => {
        const cell = own(inside, id);
        const words = valueWords(cell, names, of, [], zone);
        return typeof cell === 'boolean' && about !== undefined ? `${about}: ${words}` : words;
      })
      .filter(Boolean)
      .join(', ');
  }
  const label = typeof value === 'string' ? options?.find((o) => o.value === value)?.label : undefined;
  if (label !== undefined) return label;
  if (typeof value === 'string' && isMoment(value)) return instant.say(value, names, zone);
  return typeof value === 'string' && isDate(value) ? date.say(value, names, zone) : roomOf(shapeOf(value)).say(value, names, zone);
}

const amounts: OrderWords = { less: 'is less than', atMost: 'is at most', more: 'is more than', atLeast: 'is at least' };
/** The verbs by which values of a type are compared by their order; of lists and where nothing is known, those of amounts. */
export const orderWords = (type: ValueType | undefined): OrderWords => (type !== undefined && !isList(type) && roomOf(type).orderWords) || amounts;

/** What a value holds by an id, each with its kind. */
export const namedIn = (v: Value | undefined): { kind: NamedKind; id: string }[] =>
  (Array.isArray(v) ? v : [v]).flatMap((x) => {
    if (x === null || x === undefined) return [];
    const inside = insideOf(x);
    return inside ? Object.values(inside).flatMap(namedIn) : (roomOf(shapeOf(x)).named?.(x) ?? []);
  });
/** The ids a value holds. */
export const idsIn = (v: Value | undefined): string[] => namedIn(v).map((n) => n.id);

/** What of a value of this type an expression can name. */
export const partsOfType = (type: ValueType): readonly string[] => (isList(type) ? [] : (roomOf(type).parts ?? []));
/** The same of any type. */
export const partNames: ReadonlySet<string> = new Set(Object.keys(rooms).flatMap((type) => partsOfType(type as SingleType)));

/** Whether values of a type name something that is kept elsewhere. */
export const isNamed = (type: ValueType): boolean => roomFor(type).named !== undefined;

/** What a text somebody typed, or chose, means as a value of a type; undefined where it is none. Nothing typed is empty. */
export const typedAs = (typed: string, type: SingleType): Single | null | undefined => (typed === '' ? null : roomOf(type).typed(typed));

/** A value without our marks, as systems are sent it. */
export const plainOf = (v: Value): Plain => {
  if (v === null) return null;
  if (Array.isArray(v)) return v.map(plainOf);
  const inside = insideOf(v);
  if (inside) return Object.fromEntries(Object.entries(inside).map(([name, x]) => [name, plainOf(x)]));
  return roomOf(shapeOf(v)).plain?.(v) ?? (v as Plain);
};
/** A value as expressions read it: numbers are decimals, what is held by an id is its id. */
export function expressionOf(v: Value): Expressed {
  if (v === null) return null;
  if (Array.isArray(v)) return v.map(expressionOf);
  const inside = insideOf(v);
  if (inside) return { named: Object.fromEntries(Object.entries(inside).map(([name, x]) => [name, expressionOf(x)])) };
  const room = roomOf(shapeOf(v));
  return room.expression?.(v) ?? ((room.plain?.(v) ?? v) as Expressed);
}
/** An order with a stated value, in FEEL, where the standard has none for its type; undefined where it has. */
export const orderFeel = (ref: string, operator: string, v: Value): string | undefined =>
  v === null || Array.isArray(v) ? undefined : roomOf(shapeOf(v)).feelOrder?.(ref, operator, v);

/** What a system gave, as a value of a type; undefined where it is none. */
export function fromPlain(plain: Plain, type: ValueType): Value | undefined {
  if (plain === null) return null;
  if (isList(type)) {
    const rows = Array.isArray(plain) ? plain.map((p) => fromPlain(p, lists[type].row)) : [undefined];
    return rows.some((r) => r === undefined || r === null) ? undefined : (rows as Single[]);
  }
  const room = roomOf(type);
  const value = room.fromPlain ? room.fromPlain(plain) : (plain as Single);
  return value !== undefined && !Array.isArray(value) && room.is(value) && Single.safeParse(value).success ? value : undefined;
}

/** JSON Schema (2020-12) of what `plainOf` gives for a value of a type. */
export const jsonSchemaOf = (type: ValueType): Readonly<Record<string, unknown>> =>
  isList(type) ? { type: 'array', items: roomOf(lists[type].row).json, maxItems: 1000 } : roomOf(type).json;
