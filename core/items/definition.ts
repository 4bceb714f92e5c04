import { z } from 'zod';
import { isShallow, line } from '../boundary/index.ts';
import { Duration } from '../calendar/index.ts';
import { Form } from '../forms/index.ts';
import {
  Plan,
  referencesOf,
  roomOf,
  rowRef,
  startPlaces,
  stop,
  startPlacesOfPart,
  walk,
  analyseAssignment,
  type Catalogue,
  type Finding,
  type Part,
  type Places,
} from '../plans/index.ts';
import { fieldType } from '../forms/index.ts';
import { PriceLine, referencesOfPrice } from '../prices/index.ts';
import { basePlace, Id, Key, PersonValue, Reference, typeWords, ValueType } from '../values/index.ts';
import { checkForm, checkItem, checkPlan, checkPrices } from '../checks/index.ts';
import { Audience, checkAudience } from './audience.ts';
import { checkOnBehalf, OnBehalf } from './on-behalf.ts';
import { checkOutside } from './outside.ts';
import { checkWatched } from './watched.ts';

/** More steps than this no plan has, blocks within blocks counted. */
const mostSteps = 1000;

/** What a catalog item is: what it asks and what then happens. A draft holds one; a revision freezes one. */
export const ItemDefinition = z.object({
  name: line(80).trim().min(1, 'The item needs a name.'),
  summary: line(300).trim(),
  category: line(60).trim(),
  /** Other words by which people look for it. */
  alsoCalled: line(300).optional(),
  form: Form,
  plan: Plan.refine((p) => stepsIn(p) <= mostSteps, `A plan has at most ${mostSteps} steps.`).refine(isShallow, 'The plan is nested too deep.'),
  /** Who may ask; absent: everyone. */
  audience: Audience.optional(),
  /** Who may ask for somebody else; absent: everyone asks for themselves only. */
  onBehalf: OnBehalf.optional(),
  /** Whether people without a sign-in may ask by the item's public link; absent: no. */
  outsiders: z.boolean().optional(),
  /** Present: what is asked and said is only for the requester, those asked, its teams and these readers. */
  confidential: z.object({ readers: z.array(PersonValue).max(50) }).optional(),
  /** What it costs, line by line. */
  prices: z.array(PriceLine).max(30).optional(),
  /** Working time promised from asking to the end. */
  promise: Duration.optional(),
  /** The team that is told when what is promised, of the whole or of a milestone, is near (at this share, in percent) and when it is broken; absent: nobody is. */
  watched: z.object({ at: z.number().int().min(1).max(99), team: Key }).optional(),
  /** Of a part only: what it gives back. Its form's fields are what it is given. */
  outputs: z
    .array(z.object({ name: Id, label: line(120), type: ValueType, from: Reference }))
    .max(50)
    .optional(),
});
export type ItemDefinition = z.infer<typeof ItemDefinition>;

function stepsIn(plan: Plan): number {
  let n = 0;
  for (const _ of walk(plan.steps)) if (++n > mostSteps) break;
  return n;
}

/** An item with a name and nothing else. */
export const blankItem = (name: string): ItemDefinition => ({ name, summary: '', category: '', form: { fields: [] }, plan: { steps: [] } });

/** A part's definition as the plans that use it see it. */
export const partOfDefinition = (d: ItemDefinition): Part => ({
  name: d.name,
  inputs: d.form.fields.map((f) => ({
    name: f.id,
    label: f.label,
    type: fieldType(f.kind),
    required: f.required,
    ...(f.table !== undefined && { table: f.table }),
  })),
  outputs: d.outputs ?? [],
  steps: d.plan.steps,
});

/** The places the plan of an item, or the inside of a part, begins with. */
export const placesAtStart = (d: ItemDefinition, kind: ItemKind, catalogue: Catalogue): Places =>
  kind === 'part' ? startPlacesOfPart(partOfDefinition(d), catalogue) : startPlaces(d.form, catalogue);

/** Of those, what the form contributes. */
const formPlacesOf = (d: ItemDefinition, catalogue: Catalogue): Places =>
  new Map([...placesAtStart(d, 'item', catalogue)].filter(([ref]) => ref.startsWith('form.')));

/** A catalog item, or a part that items share. */
export type ItemKind = 'item' | 'part';

/** What the check finds in an item, or in a part: its plan reads what it is given, and its requester is told by the items that use it. */
export const checkDefinition = (kind: ItemKind, d: ItemDefinition, catalogue: Catalogue): Finding[] =>
  kind === 'item'
    ? [
        ...checkAudience(d.audience, (kind, id) => catalogue.stated?.[`${kind} ${id}`]),
        ...checkOnBehalf(d.onBehalf, (kind, id) => catalogue.stated?.[`${kind} ${id}`]),
        ...checkOutside(d),
        ...checkItem(d.form, d.plan, catalogue, d.promise),
        ...checkWatched(d, catalogue),
        ...checkPrices(d.prices, formPlacesOf(d, catalogue)),
      ]
    : [
        ...checkForm(d.form, catalogue),
        ...checkPlan(d.plan, placesAtStart(d, 'part', catalogue), catalogue).filter((f) => f.code !== 'untold' && f.code !== 'ungated'),
        ...checkOutputs(d, catalogue),
        ...d.plan.steps.flatMap((step) =>
          roomOf(step).closes
            ? [
                stop(step, {
                  code: 'closing-inside',
                  sentence: `“${step.name}” stands in a part; an end leads only to what stands in the plan of the item itself.`,
                  mend: 'Put it into the items that use this part.',
                }),
              ]
            : [],
        ),
      ];

/** What a part gives back has to be there at its end, and be of the kind it says. */
function checkOutputs(d: ItemDefinition, catalogue: Catalogue): Finding[] {
  const { end, anywhere } = analyseAssignment(d.plan.steps, placesAtStart(d, 'part', catalogue), catalogue, () => undefined);
  return (d.outputs ?? []).flatMap((o): Finding[] => {
    const place = (end ?? anywhere).get(o.from.ref);
    const told = { severity: 'stops' as const, mend: 'Take it off the list of what the part gives back, or pick another value.' };
    if (!place)
      return [{ ...told, code: 'unknown-reference', sentence: `The part gives back “${o.label}” from a value that does not exist at its end.` }];
    if (place.type === o.type) return [];
    return [
      { ...told, code: 'wrong-type', sentence: `The part gives back “${o.label}” as a ${typeWords[o.type]}; it is a ${typeWords[place.type]}.` },
    ];
  });
}

/** The columns of a table that an item reads: its plan wherever a row of it is at hand, its form and its price. */
export function columnsRead(kind: ItemKind, d: ItemDefinition, catalogue: Catalogue, table: string): string[] {
  const found = new Set<string>();
  const look = (steps: Plan['steps'], start: Places, outputs: { from: Reference }[]) => {
    const { anywhere } = analyseAssignment(steps, start, catalogue, () => undefined);
    const refs = [...walk(steps)].flatMap(({ step }) => referencesOf(step, catalogue).map((r) => r.ref));
    for (const ref of [...refs, ...outputs.map((o) => o.from.ref)])
      if (anywhere.get(rowRef(ref) ?? '')?.table === table) found.add(ref.split('.').at(-1)!);
  };
  look(d.plan.steps, placesAtStart(d, kind, catalogue), d.outputs ?? []);
  for (const { step } of walk(d.plan.steps)) for (const column of roomOf(step).looksBy?.(step, table) ?? []) found.add(column);
  const asked = new Map(d.form.fields.flatMap((f) => (f.table === table ? [[f.id, f]] : [])));
  for (const { prefill, unique } of d.form.fields) {
    if (prefill && 'row' in prefill && asked.has(prefill.row)) found.add(prefill.column);
    if (unique?.among === 'rows' && unique.table === table && unique.column !== undefined) found.add(unique.column);
  }
  for (const ref of (d.prices ?? []).flatMap(referencesOfPrice))
    if (asked.has(basePlace(ref).slice(5)) && rowRef(ref)) found.add(ref.split('.').at(-1)!);
  // What was published has the parts it uses within it, as they were.
  for (const part of Object.values(d.plan.parts ?? {})) look(part.steps, startPlacesOfPart(part, catalogue), part.outputs);
  return [...found];
}
