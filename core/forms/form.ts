import { z } from 'zod';
import { compile, Condition } from '../conditions/index.ts';
import { Id, isEmpty, isGroup, isPerson, Value, type ValueType } from '../values/index.ts';

export const FieldKind = z.enum(['text', 'longText', 'choice', 'person', 'group']);
export type FieldKind = z.infer<typeof FieldKind>;

export const Field = z.object({
  id: Id,
  kind: FieldKind,
  label: z.string().max(120),
  help: z.string().max(500).optional(),
  required: z.boolean(),
  default: Value.optional(),
  /** The choices, of a choice field only; in the order shown. */
  options: z.array(z.object({ value: z.string().max(60), label: z.string().max(120) })).optional(),
  /** Shown only while this holds; it may read the fields above it. Absent: always shown. */
  visibleWhen: Condition.optional(),
});
export type Field = z.infer<typeof Field>;

export const Form = z.object({ fields: z.array(Field).max(200) });
export type Form = z.infer<typeof Form>;

export type Answers = Record<string, Value>;

export const fieldType = (kind: FieldKind): ValueType => (kind === 'longText' ? 'text' : kind);

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
  exists: (kind: 'person' | 'group', id: string) => boolean = () => true,
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
    if (field.kind === 'person') {
      if (!isPerson(value) || !exists('person', value.person)) say(`${field.label}: this person is not known. Pick one from the list.`);
    } else if (field.kind === 'group') {
      if (!isGroup(value) || !exists('group', value.group)) say(`${field.label}: this group is not known. Pick one from the list.`);
    } else if (typeof value !== 'string') {
      say(`${field.label} must be text.`);
    } else if (field.kind === 'choice') {
      if (!(field.options ?? []).some((o) => o.value === value)) say(`${field.label}: pick one of the choices.`);
    } else {
      const limit = textLimit[field.kind];
      if ([...value].length > limit) say(`${field.label} has ${[...value].length} characters; at most ${limit} fit.`);
    }
  }
  return problems.length > 0 ? { ok: false, problems, answers } : { ok: true, answers };
}

function missing(field: Field): string {
  const verb = field.kind === 'text' || field.kind === 'longText' ? 'Fill in' : field.kind === 'choice' ? 'Choose' : 'Pick';
  return `${verb} “${field.label}”.`;
}

/** The fields that still miss an answer, for the words beside the submit button. */
export function missingFields(form: Form, answers: Answers): Field[] {
  return visibleFields(form, answers).filter((f) => f.required && isEmpty(answers[f.id]));
}
