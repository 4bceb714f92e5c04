import { z } from 'zod';
import { line, text } from '../boundary/index.ts';
import { Condition } from '../conditions/index.ts';
import { Id, idFrom, Key, Reference, Retired, TableId, Value, WereCalled } from '../values/index.ts';
import { Prefill } from './begun.ts';
import { columnKinds, FieldKind } from './kinds.ts';
import { arranged, elementsOf, FormSection } from './sections.ts';
import { Shape } from './shape.ts';

/** What every row of a For each has, whatever it is a row of. */
export const rowNames: ReadonlySet<string> = new Set(['value', 'number']);

/** What a field and a column of one both have. */
const asked = {
  id: Id,
  label: line(120),
  required: z.boolean(),
  /** Bounds of a number, or of how many lines, files, choices or people there are; inclusive. */
  min: z.number().optional(),
  max: z.number().optional(),
  unit: line(20).optional(),
  /** The choices, of a choice field only; in the order shown. */
  options: z.array(z.object({ value: line(60), label: line(120) })).optional(),
};

/** A column of a field of lines. Inside a For each over its lines it is `row.<id>`, so that no column is called as what every row has. */
export const Column = z.object({
  ...asked,
  id: Id.refine((id) => !rowNames.has(id), 'Every row has this already.'),
  kind: z.enum(columnKinds),
});
export type Column = z.infer<typeof Column>;

/**
 * Among what an answer must be the only one of its kind: the open requests for the same item, the rows of a table by a column, the
 * groups in the directory by their names, or what a system knows of: an action of it says whether there is such a one.
 */
export const Unique = z.union([
  z.object({ among: z.literal('open') }),
  z.object({ among: z.literal('groups') }),
  z.object({ among: z.literal('rows'), table: TableId.optional(), column: Id.optional() }),
  z.object({ among: z.literal('system'), action: line(200).optional() }),
]);
export type Unique = z.infer<typeof Unique>;

/** One field of a form. */
export const Field = z.object({
  ...asked,
  kind: FieldKind,
  help: text(500).optional(),
  default: Value.optional(),
  /** The reference table whose rows it offers, of a field of a table row only. */
  table: TableId.optional(),
  /** The action whose things it offers, of a field of a holding only: those that whoever it is asked for holds. */
  gave: Key.optional(),
  /** Of those only what is lent until a day. */
  lent: z.boolean().optional(),
  /** What each line holds, of a field of lines only; in the order shown. */
  columns: z.array(Column).max(20).optional(),
  /** Shown only while this holds; it may read the fields above it. Absent: always shown. */
  visibleWhen: Condition.optional(),
  /** Of a field that is not always required: an answer is, while this holds. It may read every field. */
  requiredWhen: Condition.optional(),
  /** What it begins with, looked up; where nothing is found, its default. */
  prefill: Prefill.optional(),
  /** Whoever asks does not fill it in: they see what it begins with, or do not see it. Gates and tasks may open it to others. */
  held: z.enum(['locked', 'hidden']).optional(),
  /** How a text must be written. */
  shape: Shape.optional(),
  /** An answer that is given already is not taken. */
  unique: Unique.optional(),
});
export type Field = z.infer<typeof Field>;

/** A date is so many days after another, or after the day it is asked for (where `after` is absent), or later still. */
export const Apart = z.object({
  date: Reference.optional(),
  days: z.number().int().min(0).max(1000),
  counted: z.enum(['working', 'always']),
  after: Reference.optional(),
});
export type Apart = z.infer<typeof Apart>;

/**
 * What must hold of all answers together: a condition, or how far a date is from another. Where it is false, `sentence` stands at `field`; where it cannot be told, as the order of
 * a date that is not given, it says nothing. One that is not whole yet asks nothing.
 */
export const FormRule = z.object({ id: Id, holds: Condition.optional(), apart: Apart.optional(), field: Id.optional(), sentence: line(300) });
export type FormRule = z.infer<typeof FormRule>;

/** Answers that are kept to be tried before every publishing: taken as they are, or refused at a field, with this sentence where one is stated. */
export const FormTest = z.object({
  id: Id,
  name: line(120),
  answers: z.record(Id, Value),
  /** The day it is tried on, as if it were asked then; absent: what counts from the day of asking is not looked at. */
  on: z.iso.date().optional(),
  refused: z.object({ field: Id, sentence: line(400) }).optional(),
});
export type FormTest = z.infer<typeof FormTest>;

/** What an item asks: its fields in order, what must hold between them, and the keys that are not given again. */
export const Form = z.object({
  fields: z.array(Field).max(200),
  rules: z.array(FormRule).max(50).optional(),
  sections: z.array(FormSection).max(50).optional(),
  tests: z.array(FormTest).max(50).optional(),
  retired: Retired.optional(),
  wereCalled: WereCalled.optional(),
});
export type Form = z.infer<typeof Form>;

/** Answers by field; a field without one is left out or null. */
export type Answers = Record<string, Value>;

interface Keyed {
  fields: Field[];
  sections?: FormSection[] | undefined;
  retired?: string[] | undefined;
  wereCalled?: WereCalled | undefined;
}
/** A key for a new field: one that no field of this form has or ever had. */
export const freshFieldId = (form: Keyed, label: string): string =>
  idFrom(label, new Set([...form.fields.map((f) => f.id), ...(form.retired ?? [])]));

/** The form without a field; its key is not given again, and a section before it stands before the next. */
export const withoutField = <F extends Keyed>(form: F, id: string): F => ({
  ...arranged(
    form,
    elementsOf(form).filter((e) => !('field' in e && e.field.id === id)),
  ),
  retired: [...new Set([...(form.retired ?? []), id])],
  wereCalled: [...(form.wereCalled ?? []), ...form.fields.flatMap((f) => (f.id === id && f.label ? [{ id, name: f.label }] : []))],
});
