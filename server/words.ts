import { DateTime } from 'luxon';
import { own } from '../core/boundary/index.ts';
import type { TextSnapshot } from '../core/engine/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';
import { sayText, valueWords as inWords, type RichText, type Value } from '../core/values/index.ts';
import type { Names } from './people/names.ts';

/** A value in words, by the names that were looked up. */
export const valueWords = (value: Value | undefined, names: Names, options?: { value: string; label: string }[]): string =>
  inWords(value, (kind, id) => names.of(kind, id), options);

/** The choices of a form's field, for a reference that names one; for a row, those of the fields that can be its list. */
export const optionsOf = (definition: ItemDefinition, ref: string): { value: string; label: string }[] | undefined =>
  ref === 'row.value'
    ? definition.form.fields.flatMap((f) => (f.kind === 'choices' ? (f.options ?? []) : []))
    : ref.startsWith('form.')
      ? definition.form.fields.find((f) => f.id === ref.slice(5))?.options
      : undefined;

/** What a run says, with the words its values have now. */
export const sayNow = (said: TextSnapshot, run: { number: number; definition: ItemDefinition }, names: Names): RichText =>
  sayText(said.text, (ref) =>
    ref === 'request.number' ? requestNumber(run.number) : valueWords(own(said.values, ref), names, optionsOf(run.definition, ref)),
  );

/** A moment as its reader has it, in their zone: "26 Nov 2026, 14:05". */
export const momentWords = (at: Date, zone: string): string => DateTime.fromJSDate(at).setZone(zone).setLocale('en-GB').toFormat('d LLL yyyy, HH:mm');

export const requestNumber = (n: number): string => `R-${n}`;
