import { z } from 'zod';
import { line, own, setOwn, text, unkeepableIn } from '../boundary/index.ts';
import { compile, Condition } from '../conditions/index.ts';
import {
  compareNumbers,
  Id,
  idFrom,
  isEmpty,
  isEntry,
  isMailAddress,
  isNamed,
  isNumber,
  isOfType,
  mustBe,
  namedIn,
  Retired,
  isRow,
  rowType,
  TableId,
  typedAs,
  typeWords,
  Value,
  WereCalled,
  type Entry,
  type NamedKind,
  type Single,
  type SingleType,
  type ValueType,
} from '../values/index.ts';

/** What every row of a For each has, whatever it is a row of. */
export const rowNames: ReadonlySet<string> = new Set(['value', 'number']);

/** What a kind of field holds, and how somebody is asked to fill it in. */
interface FieldRoom {
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
  number: { type: 'number', verb: 'Fill in' },
  money: { type: 'money', verb: 'Fill in' },
  date: { type: 'date', verb: 'Pick' },
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
  lines: { type: 'entries', verb: 'Fill in' },
} as const satisfies Record<string, FieldRoom>;
const fieldRoom = (kind: FieldKind): FieldRoom => kinds[kind];
/** A kind of field. */
export const FieldKind = z.enum(Object.keys(kinds) as [keyof typeof kinds, ...(keyof typeof kinds)[]]);
export type FieldKind = z.infer<typeof FieldKind>;

/** What a field and a column of one both have. */
const asked = {
  id: Id,
  label: line(120),
  required: z.boolean(),
  /** Bounds of a number, or of how many lines or files there are; inclusive. */
  min: z.number().optional(),
  max: z.number().optional(),
  unit: line(20).optional(),
  /** The choices, of a choice field only; in the order shown. */
  options: z.array(z.object({ value: line(60), label: line(120) })).optional(),
};

/** The kinds of field that may be a column: those whose answer is one thing. */
export const columnKinds = ['text', 'number', 'money', 'date', 'yesNo', 'choice', 'person', 'group', 'team', 'location', 'address'] as const;
/** A column of a field of lines. Inside a For each over its lines it is `row.<id>`, so that no column is called as what every row has. */
export const Column = z.object({
  ...asked,
  id: Id.refine((id) => !rowNames.has(id), 'Every row has this already.'),
  kind: z.enum(columnKinds),
});
export type Column = z.infer<typeof Column>;

/** One field of a form. */
export const Field = z.object({
  ...asked,
  kind: FieldKind,
  help: text(500).optional(),
  default: Value.optional(),
  /** The reference table whose rows it offers, of a field of a table row only. */
  table: TableId.optional(),
  /** What each line holds, of a field of lines only; in the order shown. */
  columns: z.array(Column).max(20).optional(),
  /** Shown only while this holds; it may read the fields above it. Absent: always shown. */
  visibleWhen: Condition.optional(),
});
export type Field = z.infer<typeof Field>;

/** What an item asks: its fields in order, and the keys that are not given again. */
export const Form = z.object({ fields: z.array(Field).max(200), retired: Retired.optional(), wereCalled: WereCalled.optional() });
export type Form = z.infer<typeof Form>;

/** Answers by field; a field without one is left out or null. */
export type Answers = Record<string, Value>;

/** The type of the values that a kind of field takes. */
export const fieldType = (kind: FieldKind): ValueType => fieldRoom(kind).type;
/** Whether a kind of field offers choices. */
export const hasOptions = (kind: FieldKind): boolean => fieldRoom(kind).offers === true;

interface Keyed {
  fields: Field[];
  retired?: string[] | undefined;
  wereCalled?: WereCalled | undefined;
}
/** Whether a kind of field offers the rows of a reference table. */
export const hasTable = (kind: FieldKind): boolean => kind === 'row';
/** Whether a kind of field is filled in with files. */
export const hasFiles = (kind: FieldKind): boolean => kind === 'file' || kind === 'files';
/** Whether a kind of field is filled in line by line. */
export const hasColumns = (kind: FieldKind): boolean => kind === 'lines';
/** A key for a new field: one that no field of this form has or ever had. */
export const freshFieldId = (form: Keyed, label: string): string =>
  idFrom(label, new Set([...form.fields.map((f) => f.id), ...(form.retired ?? [])]));

/** The form without a field; its key is not given again. */
export const withoutField = <F extends Keyed>(form: F, id: string): F => ({
  ...form,
  fields: form.fields.filter((f) => f.id !== id),
  retired: [...new Set([...(form.retired ?? []), id])],
  wereCalled: [...(form.wereCalled ?? []), ...form.fields.flatMap((f) => (f.id === id && f.label ? [{ id, name: f.label }] : []))],
});

/** Longest answer in characters: one line, or many. */
export const textLimit = { text: kinds.text.longest, longText: kinds.longText.longest };

/** What is wrong with one answer, as a sentence. */
export interface FieldProblem {
  field: string;
  sentence: string;
}

/** The fields shown for these answers, top to bottom. A hidden field counts as empty for the fields below it. */
export function visibleFields(form: Form, answers: Answers): Field[] {
  const seen: Record<string, Value> = {};
  const read = (ref: string) => (ref.startsWith('form.') ? own(seen, ref.slice(5)) : undefined);
  return form.fields.filter((field) => {
    if (field.visibleWhen && !compile(field.visibleWhen)(read)) return false;
    const answer = own(answers, field.id);
    if (answer !== undefined) setOwn(seen, field.id, answer);
    return true;
  });
}

/** What the form holds before anyone types: the defaults. */
export function initialAnswers(form: Form): Answers {
  return Object.fromEntries(form.fields.flatMap((f) => (f.default === undefined ? [] : [[f.id, f.default]])));
}

/**
 * Holds answers against the form. Hidden fields are dropped, texts trimmed, empty optional fields become null.
 * Existence of persons and groups is not known here; `exists` is asked where given.
 */
export function validateAnswers(
  form: Form,
  raw: Record<string, unknown>,
  exists: Exists = () => true,
): { ok: true; answers: Answers } | { ok: false; problems: FieldProblem[]; answers: Answers } {
  const problems: FieldProblem[] = [];
  const answers: Answers = {};
  const parsed: Answers = {};
  for (const field of form.fields) {
    const value = Value.safeParse(own(raw, field.id) ?? null);
    setOwn(parsed, field.id, value.success ? tidied(field, value.data) : null);
    if (!value.success) problems.push({ field: field.id, sentence: notAnAnswer(field, own(raw, field.id)) });
  }
  for (const field of visibleFields(form, parsed)) {
    const value = own(parsed, field.id) ?? null;
    if (problems.some((p) => p.field === field.id)) continue;
    setOwn(answers, field.id, isEmpty(value) ? null : saying(value));
    const say = (sentence: string) => problems.push({ field: field.id, sentence });
    if (isEmpty(value)) {
      if (field.required) say(missing(field));
      continue;
    }
    const problem = problemOf(field, value, exists);
    if (problem) say(problem);
  }
  return problems.length > 0 ? { ok: false, problems, answers } : { ok: true, answers };
}

/** An answer without blanks around its texts; lines with their columns and no more. */
function tidied(field: Field, value: Value): Value {
  if (typeof value === 'string') return value.trim();
  if (!Array.isArray(value) || !value.some(isEntry)) return value;
  const { columns = [] } = field;
  return value.map((v): Single => (isEntry(v) ? tidiedLine(columns, v) : v));
}

/** A line with its columns and no more, without blanks around its texts; what is empty is null. */
export function tidiedLine(columns: readonly Column[], line: Entry): Entry {
  const cells: Entry['entry'] = {};
  for (const c of columns) {
    const cell = own(line.entry, c.id) ?? null;
    const text = typeof cell === 'string' ? cell.trim() : cell;
    setOwn(cells, c.id, isEmpty(text) ? null : text);
  }
  return { entry: cells };
}

/** Lines that say nothing are not kept. They count where a line is told by its number, since they stand on the screen. */
const saying = (value: Value): Value => (Array.isArray(value) ? value.filter((v) => !isEntry(v) || !isEmpty(v)) : value);

/** Why something that was sent cannot be an answer at all. */
export function notAnAnswer(field: Pick<Field, 'label'>, raw: unknown): string {
  const bad = typeof raw === 'string' ? unkeepableIn(raw) : undefined;
  return bad
    ? `${field.label} holds a character that cannot be kept (${bad}). Take it out.`
    : `${field.label} holds something that is not an answer.`;
}

/** Whether what answers name by an id is there to be named. */
export type Exists = (kind: NamedKind, id: string) => boolean;

/** What is wrong with an answer that is not empty. */
function problemOf(field: Field, value: Value, exists: Exists): string | undefined {
  const { label } = field;
  const { type, offers, longest } = fieldRoom(field.kind);
  if (hasColumns(field.kind)) return problemOfLines(field, value, exists);
  const named = namedIn(value);
  const single = rowType(type) === undefined;
  if (single && isNamed(type) && !(isOfType(value, type) && named.every((n) => exists(n.kind, n.id))))
    return `${label}: this ${typeWords[type]} is not known. ${type === 'file' ? 'Attach it again.' : 'Pick one from the list.'}`;
  if (!isOfType(value, type))
    return `${label} ${offers && !single ? 'must be a list of choices' : !single ? `must be a ${typeWords[type]}` : mustBe(type)}.`;
  if (!named.every((n) => exists(n.kind, n.id)))
    return type === 'files' ? `${label} has a file that is not known. Attach it again.` : `${label} names somebody who is not known.`;
  if (type === 'files' && Array.isArray(value)) {
    const count = (n: number) => `${n} ${n === 1 ? 'file' : 'files'}`;
    if (field.min !== undefined && value.length < field.min) return `${label}: at least ${count(field.min)}.`;
    if (field.max !== undefined && value.length > field.max) return `${label}: at most ${count(field.max)}.`;
  }
  if (isRow(value) && value.table !== field.table) return `${label}: this row is of another table. Pick one from the list.`;
  if (offers && ![value].flat().every((v) => (field.options ?? []).some((o) => o.value === v)))
    return `${label}: pick ${single ? 'one of' : 'among'} the choices.`;
  if (isNumber(value)) {
    const unit = field.unit ? ` ${field.unit}` : '';
    if (field.min !== undefined && compareNumbers(value, field.min) < 0) return `${label}: at least ${field.min}${unit}.`;
    if (field.max !== undefined && compareNumbers(value, field.max) > 0) return `${label}: at most ${field.max}${unit}.`;
  }
  if (type === 'address' && !isMailAddress(value as string)) return `${label} ${mustBe(type)}.`;
  if (longest !== undefined) {
    const length = [...(value as string)].length;
    if (length > longest) return `${label} has ${length} characters; at most ${longest} fit.`;
  }
  return undefined;
}

/** What is wrong with lines: how many there are, or the first cell that is not as its column wants it. */
function problemOfLines(field: Field, value: Value, exists: Exists): string | undefined {
  const lines = Array.isArray(value) ? value.filter(isEntry) : [];
  if (!Array.isArray(value) || lines.length < value.length) return `${field.label} must be a ${typeWords.entries}.`;
  const count = (n: number) => `${n} ${n === 1 ? 'line' : 'lines'}`;
  const said = lines.filter((line) => !isEmpty(line)).length;
  if (field.min !== undefined && said < field.min) return `${field.label}: at least ${count(field.min)}.`;
  if (field.max !== undefined && said > field.max) return `${field.label}: at most ${count(field.max)}.`;
  const wrong = wrongCell(field, lines, exists);
  return wrong && `${field.label}, line ${wrong.line + 1}: ${wrong.sentence}`;
}

/** The first cell of lines that is not as its column wants it: the line's place from 0, the column's key, and what is wrong. Lines that say nothing are passed by. */
export function wrongCell(
  { columns = [] }: Field,
  lines: readonly Entry[],
  exists: Exists = () => true,
): { line: number; column: string; sentence: string } | undefined {
  for (const [line, row] of lines.entries()) {
    const [first] = isEmpty(row) ? [] : wrongCells(columns, row, exists);
    if (first) return { line, ...first };
  }
  return undefined;
}

/** Every cell of a line that is not as its column wants it, in the order of the columns. */
export const wrongCells = (columns: readonly Column[], { entry }: Entry, exists: Exists = () => true): { column: string; sentence: string }[] =>
  columns.flatMap((column) => {
    const cell = own(entry, column.id) ?? null;
    const sentence = isEmpty(cell) ? (column.required ? missing(column) : undefined) : problemOf(column, cell, exists);
    return sentence === undefined ? [] : [{ column: column.id, sentence }];
  });

const missing = (field: Pick<Field, 'kind' | 'label'>): string => `${fieldRoom(field.kind).verb} “${field.label}”.`;

/**
 * What was posted for a field, as the value its kind holds: one text, or each of several. What does not fit is kept as it was
 * typed, to be refused and not lost.
 */
export function postedAs(kind: FieldKind, one: string, all: string[]): Value {
  const type = fieldType(kind);
  const row = rowType(type);
  const read = (text: string, as: SingleType) => typedAs(text, as) ?? (text === '' ? null : text);
  if (row === undefined) return read(one, type as SingleType);
  const rows = all.flatMap((text) => read(text, row) ?? []);
  return rows.length > 0 ? rows : null;
}

/** The fields that still miss an answer, for the words beside the submit button. */
export function missingFields(form: Form, answers: Answers): Field[] {
  return visibleFields(form, answers).filter((f) => f.required && isEmpty(own(answers, f.id)));
}
