import { z } from 'zod';
import { line, own, setOwn, text, unkeepableIn } from '../boundary/index.ts';
import { compile, Condition } from '../conditions/index.ts';
import {
  compareNumbers,
  Id,
  idFrom,
  isEmpty,
  isMailAddress,
  isNamed,
  isNumber,
  isOfType,
  mustBe,
  namedIn,
  Retired,
  rowType,
  typedAs,
  typeWords,
  Value,
  type NamedKind,
  type SingleType,
  type ValueType,
} from '../values/index.ts';

/** What a kind of field holds, and how somebody is asked to fill it in. */
interface FieldRoom {
  type: ValueType;
  verb: 'Fill in' | 'Choose' | 'Pick';
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
  address: { type: 'address', verb: 'Fill in', longest: 254 },
} as const satisfies Record<string, FieldRoom>;
const fieldRoom = (kind: FieldKind): FieldRoom => kinds[kind];
/** A kind of field. */
export const FieldKind = z.enum(Object.keys(kinds) as [keyof typeof kinds, ...(keyof typeof kinds)[]]);
export type FieldKind = z.infer<typeof FieldKind>;

/** One field of a form. */
export const Field = z.object({
  id: Id,
  kind: FieldKind,
  label: line(120),
  help: text(500).optional(),
  required: z.boolean(),
  default: Value.optional(),
  /** Bounds of a number, inclusive. */
  min: z.number().optional(),
  max: z.number().optional(),
  unit: line(20).optional(),
  /** The choices, of a choice field only; in the order shown. */
  options: z.array(z.object({ value: line(60), label: line(120) })).optional(),
  /** Shown only while this holds; it may read the fields above it. Absent: always shown. */
  visibleWhen: Condition.optional(),
});
export type Field = z.infer<typeof Field>;

/** What an item asks: its fields in order, and the keys that are not given again. */
export const Form = z.object({ fields: z.array(Field).max(200), retired: Retired.optional() });
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
}
/** A key for a new field: one that no field of this form has or ever had. */
export const freshFieldId = (form: Keyed, label: string): string =>
  idFrom(label, new Set([...form.fields.map((f) => f.id), ...(form.retired ?? [])]));

/** The form without a field; its key is not given again. */
export const withoutField = <F extends Keyed>(form: F, id: string): F => ({
  ...form,
  fields: form.fields.filter((f) => f.id !== id),
  retired: [...new Set([...(form.retired ?? []), id])],
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
    setOwn(parsed, field.id, value.success ? (typeof value.data === 'string' ? value.data.trim() : value.data) : null);
    if (!value.success) problems.push({ field: field.id, sentence: notAnAnswer(field, own(raw, field.id)) });
  }
  for (const field of visibleFields(form, parsed)) {
    const value = own(parsed, field.id) ?? null;
    if (problems.some((p) => p.field === field.id)) continue;
    setOwn(answers, field.id, isEmpty(value) ? null : value);
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

/** Why something that was sent cannot be an answer at all. */
function notAnAnswer(field: Field, raw: unknown): string {
  const bad = typeof raw === 'string' ? unkeepableIn(raw) : undefined;
  return bad
    ? `${field.label} holds a character that cannot be kept (${bad}). Take it out.`
    : `${field.label} holds something that is not an answer.`;
}

type Exists = (kind: NamedKind, id: string) => boolean;

/** What is wrong with an answer that is not empty. */
function problemOf(field: Field, value: Value, exists: Exists): string | undefined {
  const { label } = field;
  const { type, offers, longest } = fieldRoom(field.kind);
  const named = namedIn(value);
  const single = rowType(type) === undefined;
  if (single && isNamed(type) && !(isOfType(value, type) && named.every((n) => exists(n.kind, n.id))))
    return `${label}: this ${typeWords[type]} is not known. Pick one from the list.`;
  if (!isOfType(value, type))
    return `${label} ${offers && !single ? 'must be a list of choices' : !single ? `must be a ${typeWords[type]}` : mustBe(type)}.`;
  if (!named.every((n) => exists(n.kind, n.id))) return `${label} names somebody who is not known.`;
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

const missing = (field: Field): string => `${fieldRoom(field.kind).verb} “${field.label}”.`;

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
