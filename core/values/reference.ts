import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { Value } from './value.ts';

/**
 * A reference names a typed place: `request.requester`, `form.<field>`, `steps.<step>.<output>`.
 * Screens offer the list of places that exist; nobody types one.
 */
export const Reference = z.object({
  ref: z
    .string()
    .max(200)
    .regex(/^[a-z][A-Za-z0-9_]*(\.[a-z][A-Za-z0-9_]*)+$/),
});
export type Reference = z.infer<typeof Reference>;

/** How many names a place has after its head: a step and its output, else one. What follows them is a column of the row that stands there. */
export const placeHeads: ReadonlyMap<string, number> = new Map([
  ['request', 1],
  ['form', 1],
  ['row', 1],
  ['part', 1],
  ['steps', 2],
]);
/** The place a reference is at or in: `form.machine` of `form.machine.price`. */
export function basePlace(ref: string): string {
  const names = ref.split('.');
  const most = (placeHeads.get(names[0]!) ?? names.length) + 1;
  return names.length <= most ? ref : names.slice(0, most).join('.');
}

/** A setting's value: picked from a place, or stated. */
export const Operand = z.union([Reference, z.object({ literal: Value })]);
export type Operand = z.infer<typeof Operand>;

/** Whether a setting is picked from a place. */
export const isReference = (o: unknown): o is Reference => typeof o === 'object' && o !== null && 'ref' in o;

/** Keys that were used once and are not any more; none is given again, so that what still reads one never means something new. */
export const Retired = z.array(z.string().max(40)).max(5000);
/** What those were called when they went, so that what still reads one can be told in words. */
export const WereCalled = z.array(z.object({ id: z.string().max(40), name: line(120) })).max(5000);
export type WereCalled = z.infer<typeof WereCalled>;
