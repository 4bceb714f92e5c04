import { z } from 'zod';
import { line, own, setOwn, text, unkeepableIn } from '../boundary/index.ts';
import { compile, Condition } from '../conditions/index.ts';
import { Id, idFrom, isEmpty, isGroup, isOfType, isPerson, Retired, Value, type ValueType } from '../values/index.ts';

/** The kinds of field there are. */
export const FieldKind = z.enum(['text', 'longText', 'number', 'date', 'yesNo', 'choice', 'choices', 'person', 'people', 'group']);
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

const types: Record<FieldKind, ValueType> = {
  text: 'text',
  longText: 'text',
  number: 'number',
  date: 'date',
  yesNo: 'boolean',
  choice: 'choice',
  choices: 'texts',
  person: 'person',
  people: 'people',
  group: 'group',
};
/** The type of the values that a kind of field takes. */
export const fieldType = (kind: FieldKind): ValueType => types[kind];
/** Whether a kind of field offers choices. */
export const hasOptions = (kind: FieldKind): boolean => kind === 'choice' || kind === 'choices';

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
export const textLimit = { text: 200, longText: 4000 };

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

type Exists = (kind: 'person' | 'group', id: string) => boolean;

/** What is wrong with an answer that is not empty. */
function problemOf(field: Field, value: Value, exists: Exists): string | undefined {
  const { label, kind } = field;
  const offered = (v: unknown) => (field.options ?? []).some((o) => o.value === v);
  if (kind === 'person' && !(isPerson(value) && exists('person', value.person))) return `${label}: this person is not known. Pick one from the list.`;
  if (kind === 'group' && !(isGroup(value) && exists('group', value.group))) return `${label}: this group is not known. Pick one from the list.`;
  if (!isOfType(value, fieldType(kind))) return `${label} ${wanted[kind] ?? 'must be text'}.`;
  if (kind === 'people' && !(value as unknown[]).every((p) => isPerson(p) && exists('person', p.person)))
    return `${label} names somebody who is not known.`;
  if (kind === 'choice' && !offered(value)) return `${label}: pick one of the choices.`;
  if (kind === 'choices' && !(value as unknown[]).every(offered)) return `${label}: pick among the choices.`;
  if (typeof value === 'number') {
    const unit = field.unit ? ` ${field.unit}` : '';
    if (field.min !== undefined && value < field.min) return `${label}: at least ${field.min}${unit}.`;
    if (field.max !== undefined && value > field.max) return `${label}: at most ${field.max}${unit}.`;
  }
  if (kind === 'text' || kind === 'longText') {
    const length = [...(value as string)].length;
    if (length > textLimit[kind]) return `${label} has ${length} characters; at most ${textLimit[kind]} fit.`;
  }
  return undefined;
}
const wanted: Partial<Record<FieldKind, string>> = {
  number: 'must be a number',
  date: 'must be a date such as 2026-03-30',
  yesNo: 'must be yes or no',
  choices: 'must be a list of choices',
  people: 'must be a list of people',
};

function missing(field: Field): string {
  const verb = ['text', 'longText', 'number'].includes(field.kind) ? 'Fill in' : hasOptions(field.kind) || field.kind === 'yesNo' ? 'Choose' : 'Pick';
  return `${verb} “${field.label}”.`;
}

/** The fields that still miss an answer, for the words beside the submit button. */
export function missingFields(form: Form, answers: Answers): Field[] {
  return visibleFields(form, answers).filter((f) => f.required && isEmpty(own(answers, f.id)));
}
