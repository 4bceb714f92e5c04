import { own } from '../boundary/index.ts';
import { conditionReferences, type Condition } from '../conditions/index.ts';
import { fieldType, surelyBegins, type Column, type Field } from '../forms/index.ts';
import { basePlace, isReference, piecesOf, type Operand, type RichText, type ValueType } from '../values/index.ts';
import type { Catalogue } from './catalogue.ts';
import type { Passage } from './settings.ts';
import type { Base } from './base.ts';

/** A place whose value can be picked. */
export interface Place {
  ref: string;
  label: string;
  type: ValueType;
  /** False: on some path, or for some answers, there is no value here. */
  always: boolean;
  /** Where it comes from, as a heading in a list. */
  source: string;
  options?: { value: string; label: string }[];
  /** Of a list of lines: what each line holds, as the places it is inside a For each over them. */
  columns?: (Place & { id: string })[];
  /** Of a table row: its table, and the places of the columns that every row of it has filled in. */
  table?: string;
  filled?: string[];
  /** Of a holding: the action that gave it. */
  gave?: string;
  /** Bounds of a number, for the ranges a condition can meet. */
  min?: number;
  max?: number;
  /** May go into a sealed note only. */
  secret?: boolean;
  /** Wherever this holds, there is a value: a field that is required wherever it is shown. */
  certainWhen?: Condition;
  /** Of the number of rows of a look-up: the list it counts, which has a value when it is not 0. */
  counts?: string;
}
/** Places by reference. */
export type Places = Map<string, Place>;

/**
 * A place, and behind it what stands in the columns of a table row: `form.machine`, `form.machine.price`. A row that is there
 * stays readable when it is not offered any more, so that a column which every row has is as certain as the row.
 */
export function withCells(place: Place, catalogue: Catalogue): Place[] {
  const columns = place.table === undefined ? undefined : own(catalogue.tables, place.table)?.columns;
  if (!columns) return [place];
  const ref = (c: Column) => `${place.ref}.${c.id}`;
  const { certainWhen } = place;
  const cells = columns.map((c) => ({
    ...askedPlace(c, ref(c), place.source),
    label: `${c.label} of ${place.label}`,
    always: c.required && place.always,
    ...(c.required && certainWhen && { certainWhen }),
  }));
  return [{ ...place, filled: columns.filter((c) => c.required).map(ref) }, ...cells];
}

/** The reference to the row whose column a reference names; undefined where it names a whole value. */
export const rowRef = (ref: string): string | undefined => (basePlace(ref) === ref ? undefined : basePlace(ref));

/** What a field gives, as a place. Of one that whoever asks does not fill in, only what it begins with is certain. */
export const fieldPlace = (f: Field, ref: string, source: string): Place => {
  const given = !f.held || surelyBegins(f);
  return {
    ...askedPlace(f, ref, source),
    always: given && f.required && !f.visibleWhen,
    ...(f.columns && { columns: f.columns.map((c) => ({ id: c.id, ...askedPlace(c, `row.${c.id}`, f.label) })) }),
    ...(given && f.required && f.visibleWhen && { certainWhen: f.visibleWhen }),
    ...(given && !f.required && !f.visibleWhen && f.requiredWhen && { certainWhen: f.requiredWhen }),
  };
};

/** What a field or a column gives. */
const askedPlace = (f: Field | Column, ref: string, source: string): Place => ({
  ref,
  label: f.label,
  type: fieldType(f.kind),
  always: f.required,
  source,
  ...(f.options && { options: f.options }),
  ...('table' in f && f.table !== undefined && { table: f.table }),
  ...('gave' in f && f.gave !== undefined && { gave: f.gave }),
  ...(f.kind === 'number' && f.min !== undefined && { min: f.min }),
  ...(f.kind === 'number' && f.max !== undefined && { max: f.max }),
});

/** An output of a step, as a place. */
export const output = (step: Base, name: string, label: string, type: ValueType, always: boolean): Place => ({
  ref: `steps.${step.id}.${name}`,
  label,
  type,
  always,
  source: step.name,
});

/** A place a step reads, with the setting that reads it. `needed`: without a value the step cannot do its work. */
export interface Reading {
  ref: string;
  setting: string;
  needed: boolean;
  /** It is read only while this holds. */
  under?: Condition;
  /** It stands in words for people, which can be sent with a gap. */
  inText?: boolean;
}

/** The reading of one place by one setting; none where nothing is picked. */
export const readOne = (ref: string | undefined, setting: string): Reading[] => (ref === undefined ? [] : [{ ref, setting, needed: true }]);
/** The readings of a text: the values picked into it. */
export const readText = (text: RichText, setting: string): Reading[] =>
  piecesOf(text).flatMap((x) => (isReference(x) ? readOne(x.ref, setting) : []));
/** The readings of a condition: it can be told also where there is no value. */
export const readCondition = (c: Condition | undefined, setting: string): Reading[] =>
  c ? conditionReferences(c).map((ref) => ({ ref, setting, needed: false })) : [];
/** The readings of a message, each under the condition its passage has. */
export const readPassages = (all: Passage[], setting: string): Reading[] =>
  all.flatMap((p) => [
    ...readCondition(p.when, `Condition in ${setting.toLowerCase()}`),
    ...readText(p.text, setting).map((r) => (p.when ? { ...r, under: p.when } : r)),
  ]);
/** The readings of inputs, each under the label of its slot. */
export const readOperands = (values: Record<string, Operand>, label: (name: string) => string): Reading[] =>
  Object.entries(values).flatMap(([name, o]) => (isReference(o) ? readOne(o.ref, label(name)) : []));
/** The same readings, as of words for people. */
export const inText = (readings: Reading[]): Reading[] => readings.map((r) => ({ ...r, inText: true }));
