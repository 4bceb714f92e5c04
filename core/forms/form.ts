import { z } from 'zod';
import { compile, Condition } from '../conditions/index.ts';
import { Id, isEmpty, isGroup, isOfType, isPerson, Value, type ValueType } from '../values/index.ts';

export const FieldKind = z.enum(['text', 'longText', 'number', 'date', 'yesNo', 'choice', 'choices', 'person', 'people', 'group']);
export type FieldKind = z.infer<typeof FieldKind>;

export const Field = z.object({
  id: Id,
  kind: FieldKind,
  label: z.string().max(120),
  help: z.string().max(500).optional(),
  required: z.boolean(),
  default: Value.optional(),
  /** Bounds of a number, inclusive. */
  min: z.number().optional(),
  max: z.number().optional(),
  unit: z.string().max(20).optional(),
  /** The choices, of a choice field only; in the order shown. */
  options: z.array(z.object({ value: z.string().max(60), label: z.string().max(120) })).optional(),
  /** Shown only while this holds; it may read the fields above it. Absent: always shown. */
  visibleWhen: Condition.optional(),
});
export type Field = z.infer<typeof Field>;

export const Form = z.object({ fields: z.array(Field).max(200) });
export type Form = z.infer<typeof Form>;

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
export const fieldType = (kind: FieldKind): ValueType => types[kind];
export const hasOptions = (kind: FieldKind): boolean => kind === 'choice' || kind === 'choices';

/** Longest answer in characters: one line, or many. */
export const textLimit = { text: 200, longText: 4000 };

export interface FieldProblem {
  field: string;
  sentence: string;
}

/** The fields shown for these answers, top to bottom. A hidden field counts as empty for the fields below it. */
export function visibleFields(form: Form, answers: Answers): Field[] {
  const seen: Record<string, Value> = {};
  const read = (ref: string) => (ref.startsWith('form.') ? seen[ref.slice(5)] : undefined);
  return form.fields.filter((field) => {
    if (field.visibleWhen && !compile(field.visibleWhen)(read)) return false;
    const answer = answers[field.id];
    if (answer !== undefined) seen[field.id] = answer;
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
    const value = Value.safeParse(raw[field.id] ?? null);
    parsed[field.id] = value.success ? (typeof value.data === 'string' ? value.data.trim() : value.data) : null;
    if (!value.success) problems.push({ field: field.id, sentence: `${field.label} holds something that is not an answer.` });
  }
  for (const field of visibleFields(form, parsed)) {
    const value = parsed[field.id] ?? null;
    if (problems.some((p) => p.field === field.id)) continue;
    answers[field.id] = isEmpty(value) ? null : value;
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
  return visibleFields(form, answers).filter((f) => f.required && isEmpty(answers[f.id]));
}
