import { z } from 'zod';
import { own, setOwn } from '../boundary/index.ts';
import { fitsFor, Id, isEmpty, isOfType, isRow, sameValue, type Row, type Value, type ValueType } from '../values/index.ts';
import type { Answers, Field, Form } from './form.ts';
import { fieldType } from './kinds.ts';

/** What is known of whoever asks, by what it is of them: its type and its words. */
const facts = {
  self: { type: 'person', words: 'Whoever asks', always: true },
  manager: { type: 'person', words: 'Their manager', always: false },
  name: { type: 'text', words: 'Their name', always: true },
  mail: { type: 'address', words: 'Their mail address', always: true },
  department: { type: 'text', words: 'Their department', always: false },
  job: { type: 'text', words: 'Their job', always: false },
  place: { type: 'location', words: 'Their place', always: false },
} as const satisfies Record<string, { type: ValueType; words: string; always: boolean }>;
/** What can be looked up of whoever asks. */
export type Fact = keyof typeof facts;
const Fact = z.enum(Object.keys(facts) as [Fact, ...Fact[]]);
/** What is known of whoever asks; null where there is nothing. */
export type Facts = Record<Fact, Value>;

/** What a field begins with that is looked up: a fact of whoever asks, or a column of the row that another field picks. */
export const Prefill = z.union([z.object({ ofAsker: Fact }), z.object({ row: Id, column: Id })]);
export type Prefill = z.infer<typeof Prefill>;

/** The facts that a field of this type can begin with, with their words. */
export const factsFor = (type: ValueType): { fact: Fact; words: string }[] =>
  (Object.keys(facts) as Fact[]).flatMap((fact) => (fitsFor(type).includes(facts[fact].type) ? [{ fact, words: facts[fact].words }] : []));
/** Whether a fact can be what a field of this type begins with. */
export const factFits = (fact: Fact, type: ValueType): boolean => fitsFor(type).includes(facts[fact].type);

/** What stands in the columns of a row; undefined where that is not known. */
export type CellsOf = (row: Row) => Record<string, Value> | undefined;

/** What a field begins with, for these answers: what is looked up, else its default; undefined where that is nothing. */
export function beginsWith(field: Field, answers: Answers, known: { asker: Facts; cells: CellsOf }): Value | undefined {
  const { prefill } = field;
  const row = prefill && 'row' in prefill ? own(answers, prefill.row) : undefined;
  const found = !prefill
    ? undefined
    : 'ofAsker' in prefill
      ? known.asker[prefill.ofAsker]
      : isRow(row)
        ? own(known.cells(row) ?? {}, prefill.column)
        : undefined;
  return !isEmpty(found) && fitsFor(fieldType(field.kind)).some((type) => isOfType(found, type)) ? found : field.default;
}

/** What a form holds before anyone types, and after what is looked up from `answers`, where those are given. */
export function begunAnswers(form: Form, known: { asker: Facts; cells: CellsOf }, answers: Answers = {}): Answers {
  const begun: Answers = {};
  for (const field of form.fields) {
    const value = beginsWith(field, { ...begun, ...answers }, known);
    if (value !== undefined) setOwn(begun, field.id, value);
  }
  return begun;
}

/** Nothing is known of whoever asks, nor of rows. */
export const nothingKnown: { asker: Facts; cells: CellsOf } = {
  asker: { self: null, manager: null, name: null, mail: null, department: null, job: null, place: null },
  cells: () => undefined,
};

/** Answers in which the fields that whoever asks does not fill in hold what they begin with, whatever was sent for them. */
export function withHeld<V>(form: Form, answers: Record<string, V>, known: { asker: Facts; cells: CellsOf }): Record<string, V | Value> {
  const held = form.fields.filter((f) => f.held);
  if (held.length === 0) return answers;
  const next: Record<string, V | Value> = { ...answers };
  for (const field of held) setOwn(next, field.id, beginsWith(field, next as Answers, known) ?? null);
  return next;
}

/**
 * Answers that were given once and are given again, corrected: what nobody fills in is as it stood, unless it is looked up in a row
 * and another row is picked now. `opened` are such fields that whoever corrects does fill in.
 */
export function heldAgain<V>(
  form: Form,
  next: Record<string, V>,
  before: Answers,
  known: { asker: Facts; cells: CellsOf },
  opened: ReadonlySet<string> = new Set(),
): Record<string, V | Value> {
  const again: Record<string, V | Value> = { ...next };
  for (const field of form.fields) {
    if (!field.held || opened.has(field.id)) continue;
    const row = field.prefill && 'row' in field.prefill ? field.prefill.row : undefined;
    const another = row !== undefined && !sameValue((own(again, row) as Value | undefined) ?? null, own(before, row) ?? null);
    setOwn(again, field.id, another ? (beginsWith(field, again as Answers, known) ?? null) : (own(before, field.id) ?? null));
  }
  return again;
}

/** Whether a field that nobody fills in has a value for certain: a default, or a fact that everybody has. */
export const surelyBegins = (f: Pick<Field, 'prefill' | 'default'>): boolean =>
  !isEmpty(f.default) || (f.prefill !== undefined && 'ofAsker' in f.prefill && facts[f.prefill.ofAsker].always);
