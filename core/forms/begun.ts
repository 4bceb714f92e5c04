import { z } from 'zod';
import { own, setOwn } from '../boundary/index.ts';
import { fitsFor, Id, isEmpty, isHolding, isOfType, isRow, sameValue, type Row, type Value, type ValueType } from '../values/index.ts';
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

/**
 * What a field begins with that is looked up: a fact of whoever asks, a column of the row that another field picks, or what the action took
 * or answered (by the name of its slot) that gave the holding that another field picks.
 */
export const Prefill = z.union([z.object({ ofAsker: Fact }), z.object({ row: Id, column: Id }), z.object({ holding: Id, slot: Id })]);
export type Prefill = z.infer<typeof Prefill>;

/** The field whose answer it is looked up from; undefined where it comes from whoever asks, or nothing is looked up. */
export const lookedUpFrom = ({ prefill }: Pick<Field, 'prefill'>): string | undefined =>
  !prefill || 'ofAsker' in prefill ? undefined : 'row' in prefill ? prefill.row : prefill.holding;

/** The facts that a field of this type can begin with, with their words. */
export const factsFor = (type: ValueType): { fact: Fact; words: string }[] =>
  (Object.keys(facts) as Fact[]).flatMap((fact) => (fitsFor(type).includes(facts[fact].type) ? [{ fact, words: facts[fact].words }] : []));
/** Whether a fact can be what a field of this type begins with. */
export const factFits = (fact: Fact, type: ValueType): boolean => fitsFor(type).includes(facts[fact].type);

/** What stands in the columns of a row; undefined where that is not known. */
export type CellsOf = (row: Row) => Record<string, Value> | undefined;
/** What the action took and answered that gave a holding, by the names of its slots; undefined where that is not known. */
export type SlotsOf = (holding: string) => Record<string, Value> | undefined;
/** What forms look up: what is known of whoever asks, of rows and of holdings. */
export interface Known {
  asker: Facts;
  cells: CellsOf;
  slots: SlotsOf;
}

/** What a field begins with, for these answers: what is looked up, else its default; undefined where that is nothing. */
export function beginsWith(field: Field, answers: Answers, known: Known): Value | undefined {
  const found = field.prefill && lookedUp(field.prefill, answers, known);
  return !isEmpty(found) && fitsFor(fieldType(field.kind)).some((type) => isOfType(found, type)) ? found : field.default;
}

function lookedUp(prefill: Prefill, answers: Answers, known: Known): Value | undefined {
  if ('ofAsker' in prefill) return known.asker[prefill.ofAsker];
  if ('row' in prefill) {
    const row = own(answers, prefill.row);
    return isRow(row) ? own(known.cells(row) ?? {}, prefill.column) : undefined;
  }
  const held = own(answers, prefill.holding);
  return isHolding(held) ? own(known.slots(held.holding) ?? {}, prefill.slot) : undefined;
}

/** What a form holds before anyone types, and after what is looked up from `answers`, where those are given. */
export function begunAnswers(form: Form, known: Known, answers: Answers = {}): Answers {
  const begun: Answers = {};
  for (const field of form.fields) {
    const value = beginsWith(field, { ...begun, ...answers }, known);
    if (value !== undefined) setOwn(begun, field.id, value);
  }
  return begun;
}

/** Nothing is known of whoever asks, nor of rows and holdings. */
export const nothingKnown: Known = {
  asker: { self: null, manager: null, name: null, mail: null, department: null, job: null, place: null },
  cells: () => undefined,
  slots: () => undefined,
};

/** Answers in which the fields that whoever asks does not fill in hold what they begin with, whatever was sent for them. */
export function withHeld<V>(form: Form, answers: Record<string, V>, known: Known): Record<string, V | Value> {
  const held = form.fields.filter((f) => f.held);
  if (held.length === 0) return answers;
  const next: Record<string, V | Value> = { ...answers };
  for (const field of held) setOwn(next, field.id, beginsWith(field, next as Answers, known) ?? null);
  return next;
}

/**
 * Answers that were given once and are given again, corrected: what nobody fills in is as it stood, unless it is looked up in a row
 * or of a holding and another one is picked now. `opened` are such fields that whoever corrects does fill in.
 */
export function heldAgain<V>(
  form: Form,
  next: Record<string, V>,
  before: Answers,
  known: Known,
  opened: ReadonlySet<string> = new Set(),
): Record<string, V | Value> {
  const again: Record<string, V | Value> = { ...next };
  for (const field of form.fields) {
    if (!field.held || opened.has(field.id)) continue;
    const from = lookedUpFrom(field);
    const another = from !== undefined && !sameValue((own(again, from) as Value | undefined) ?? null, own(before, from) ?? null);
    setOwn(again, field.id, another ? (beginsWith(field, again as Answers, known) ?? null) : (own(before, field.id) ?? null));
  }
  return again;
}

/** Whether what a field begins with, of a holding, has to be there: nobody fills it in, and it is required. What is not known of a holding cannot be asked for. */
const isWantedOfHolding = (f: Pick<Field, 'prefill' | 'held' | 'required'>): boolean =>
  f.held !== undefined && f.required && f.prefill !== undefined && 'holding' in f.prefill;

/** Of the holdings that are picked, what is required and not known: told where they are picked. */
export function notKnownOf(form: Form, answers: Answers): { field: string; sentence: string }[] {
  return form.fields.flatMap((f) => {
    const from = form.fields.find((x) => x.id === lookedUpFrom(f));
    if (!isWantedOfHolding(f) || !from || isEmpty(own(answers, from.id)) || !isEmpty(own(answers, f.id))) return [];
    return [{ field: from.id, sentence: `${from.label}: “${f.label}” of it is not known here. Pick another, or ask the desk.` }];
  });
}

/** Whether a field that nobody fills in has a value for certain: a default, a fact that everybody has, or what has to be known of a holding. */
export const surelyBegins = (f: Pick<Field, 'prefill' | 'default' | 'held' | 'required'>): boolean =>
  !isEmpty(f.default) || isWantedOfHolding(f) || (f.prefill !== undefined && 'ofAsker' in f.prefill && facts[f.prefill.ofAsker].always);
