import { z } from 'zod';
import { Duration } from '../calendar/index.ts';
import { Form } from '../forms/index.ts';
import { checkItem, checkPlan, Plan, startPlaces, startPlacesOfPart, type Catalogue, type Finding, type Part, type Places } from '../plans/index.ts';
import { fieldType } from '../forms/index.ts';
import { Id, Reference, ValueType } from '../values/index.ts';

/** What a catalog item is: what it asks and what then happens. A draft holds one; a revision freezes one. */
export const ItemDefinition = z.object({
  name: z.string().trim().min(1, 'The item needs a name.').max(80, 'At most 80 characters.'),
  summary: z.string().trim().max(300, 'At most 300 characters.'),
  category: z.string().trim().max(60, 'At most 60 characters.'),
  form: Form,
  plan: Plan,
  /** Working time promised from asking to the end. */
  promise: Duration.optional(),
  /** Of a part only: what it gives back. Its form's fields are what it is given. */
  outputs: z
    .array(z.object({ name: Id, label: z.string().max(120), type: ValueType, from: Reference }))
    .max(50)
    .optional(),
});
export type ItemDefinition = z.infer<typeof ItemDefinition>;

export const blankItem = (name: string): ItemDefinition => ({ name, summary: '', category: '', form: { fields: [] }, plan: { steps: [] } });

/** A part's definition as the plans that use it see it. */
export const partOfDefinition = (d: ItemDefinition): Part => ({
  name: d.name,
  inputs: d.form.fields.map((f) => ({ name: f.id, label: f.label, type: fieldType(f.kind), required: f.required })),
  outputs: d.outputs ?? [],
  steps: d.plan.steps,
});

/** The places the plan of an item, or the inside of a part, begins with. */
export const placesAtStart = (d: ItemDefinition, kind: ItemKind): Places =>
  kind === 'part' ? startPlacesOfPart(partOfDefinition(d)) : startPlaces(d.form);

export type ItemKind = 'item' | 'part';

/** What the check finds in an item, or in a part: its plan reads what it is given, and its requester is told by the items that use it. */
export const checkDefinition = (kind: ItemKind, d: ItemDefinition, catalogue: Catalogue): Finding[] =>
  kind === 'item'
    ? checkItem(d.form, d.plan, catalogue, d.promise)
    : checkPlan(d.plan, placesAtStart(d, 'part'), catalogue).filter((f) => f.code !== 'untold');
