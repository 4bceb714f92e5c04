import { own } from '../core/boundary/index.ts';
import type { Said } from '../core/engine/index.ts';
import type { ItemDefinition } from '../core/items/index.ts';
import { isGroup, isPerson, sayText, type RichText, type Value } from '../core/values/index.ts';
import type { Names } from './people/names.ts';

/** A value in words, as a reader of this zone would say it. */
export function valueWords(value: Value | undefined, names: Names, options?: { value: string; label: string }[]): string {
  if (value === undefined || value === null || value === '') return '';
  if (Array.isArray(value)) return value.map((v) => valueWords(v, names, options)).join(', ');
  if (isPerson(value)) return names.people.get(value.person)?.name ?? 'someone who is not known any more';
  if (isGroup(value)) return names.groups.get(value.group) ?? 'a group that is not known any more';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string' && /^\d{4}-\d\d-\d\dT/.test(value)) return `${value.slice(0, 16).replace('T', ' ')} UTC`;
  return options?.find((o) => o.value === value)?.label ?? String(value);
}

/** The choices of a form's field, for a reference that names one; for a row, those of the fields that can be its list. */
export const optionsOf = (definition: ItemDefinition, ref: string): { value: string; label: string }[] | undefined =>
  ref === 'row.value'
    ? definition.form.fields.flatMap((f) => (f.kind === 'choices' ? (f.options ?? []) : []))
    : ref.startsWith('form.')
      ? definition.form.fields.find((f) => f.id === ref.slice(5))?.options
      : undefined;

/** What a run says, with the words its values have now. */
export const sayNow = (said: Said, run: { number: number; definition: ItemDefinition }, names: Names): RichText =>
  sayText(said.text, (ref) =>
    ref === 'request.number' ? requestNumber(run.number) : valueWords(own(said.values, ref), names, optionsOf(run.definition, ref)),
  );

export const requestNumber = (n: number): string => `R-${n}`;
