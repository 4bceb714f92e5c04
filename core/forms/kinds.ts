import { z } from 'zod';
import { rowType, type ValueType } from '../values/index.ts';

/** What a kind of field holds, and how somebody is asked to fill it in. */
export interface FieldRoom {
  type: ValueType;
  verb: 'Fill in' | 'Choose' | 'Pick' | 'Attach';
  /** It offers choices. */
  offers?: true;
  /** The longest answer, in characters. */
  longest?: number;
}
/** The kinds of field, in the order in which screens offer them. */
const kinds = {
  text: { type: 'text', verb: 'Fill in', longest: 200 },
  longText: { type: 'text', verb: 'Fill in', longest: 4000 },
  formatted: { type: 'formatted', verb: 'Fill in' },
  number: { type: 'number', verb: 'Fill in' },
  money: { type: 'money', verb: 'Fill in' },
  date: { type: 'date', verb: 'Pick' },
  time: { type: 'time', verb: 'Fill in' },
  yesNo: { type: 'boolean', verb: 'Choose' },
  choice: { type: 'choice', verb: 'Choose', offers: true },
  choices: { type: 'texts', verb: 'Choose', offers: true },
  person: { type: 'person', verb: 'Pick' },
  people: { type: 'people', verb: 'Pick' },
  group: { type: 'group', verb: 'Pick' },
  team: { type: 'team', verb: 'Pick' },
  location: { type: 'location', verb: 'Pick' },
  row: { type: 'row', verb: 'Pick' },
  file: { type: 'file', verb: 'Attach' },
  files: { type: 'files', verb: 'Attach' },
  address: { type: 'address', verb: 'Fill in', longest: 254 },
  phone: { type: 'phone', verb: 'Fill in' },
  lines: { type: 'entries', verb: 'Fill in' },
  holding: { type: 'holding', verb: 'Pick' },
} as const satisfies Record<string, FieldRoom>;
/** What a kind of field holds and how it is asked for. */
export const fieldRoom = (kind: FieldKind): FieldRoom => kinds[kind];
/** A kind of field. */
export const FieldKind = z.enum(Object.keys(kinds) as [keyof typeof kinds, ...(keyof typeof kinds)[]]);
export type FieldKind = z.infer<typeof FieldKind>;

/** The kinds of field that may be a column: those whose answer is one thing. */
export const columnKinds = [
  'text',
  'longText',
  'formatted',
  'number',
  'money',
  'date',
  'time',
  'yesNo',
  'choice',
  'person',
  'group',
  'team',
  'location',
  'address',
  'phone',
] as const;
/** The type of the values that a kind of field takes. */
export const fieldType = (kind: FieldKind): ValueType => fieldRoom(kind).type;
/** Whether a kind of field offers choices. */
export const hasOptions = (kind: FieldKind): boolean => fieldRoom(kind).offers === true;

/** Whether a kind of field offers the rows of a reference table. */
export const hasTable = (kind: FieldKind): boolean => kind === 'row';
/** Whether a kind of field offers what somebody holds. */
export const hasHoldings = (kind: FieldKind): boolean => kind === 'holding';
/** Whether a kind of field is filled in with files. */
export const hasFiles = (kind: FieldKind): boolean => kind === 'file' || kind === 'files';
/** Whether a kind of field is filled in line by line. */
export const hasColumns = (kind: FieldKind): boolean => kind === 'lines';
/** Longest answer in characters: one line, or many. */
export const textLimit = { text: kinds.text.longest, longText: kinds.longText.longest };

/** What there may be several of in one answer, one and many: bounds say how many. */
export const countedAs = { files: ['file', 'files'], choices: ['choice', 'choices'], people: ['person', 'people'] } as const;
/** Whether the bounds of a kind of field say how many there may be. */
export const isCounted = (kind: FieldKind): boolean => Object.hasOwn(countedAs, kind) || hasColumns(kind);

/** Whether two answers to a kind of field can be told to be the same, so that one may have to be the only one of its kind. */
export const mayBeUnique = (kind: FieldKind): boolean =>
  !hasFiles(kind) && !hasHoldings(kind) && kind !== 'yesNo' && kind !== 'formatted' && rowType(fieldType(kind)) === undefined;
