import { inArray } from 'drizzle-orm';
import { own } from '../../core/boundary/index.ts';
import type { Said } from '../../core/engine/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { isGroup, isPerson, sayText, type RichText, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { accessGroup, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** Names of the people and groups among values, read in one go each. */
export interface Names {
  people: Map<string, { name: string; email: string }>;
  groups: Map<string, string>;
}

export async function namesFor(tx: Reader, values: Iterable<Value | undefined>, morePeople: string[] = []): Promise<Names> {
  const people = new Set<string>(morePeople.filter(isId));
  const groups = new Set<string>();
  for (const value of values) {
    for (const v of Array.isArray(value) ? value : [value]) {
      if (isPerson(v) && isId(v.person)) people.add(v.person);
      if (isGroup(v) && isId(v.group)) groups.add(v.group);
    }
  }
  const [p, g] = await Promise.all([
    people.size
      ? tx
          .select({ id: person.id, name: person.name, email: person.email })
          .from(person)
          .where(inArray(person.id, [...people]))
      : [],
    groups.size
      ? tx
          .select({ id: accessGroup.id, name: accessGroup.name })
          .from(accessGroup)
          .where(inArray(accessGroup.id, [...groups]))
      : [],
  ]);
  return { people: new Map(p.map((x) => [x.id, { name: x.name, email: x.email }])), groups: new Map(g.map((x) => [x.id, x.name])) };
}

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

/** Names by id, for forms that hold people and groups. */
export const shortNames = (names: Names): Record<string, string> =>
  Object.fromEntries([...[...names.people].map(([id, p]): [string, string] => [id, p.name]), ...names.groups]);
