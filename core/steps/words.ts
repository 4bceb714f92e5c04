import { own } from '../boundary/index.ts';
import { minutesWords, workingMinutes } from '../calendar/index.ts';
import type { Naming } from '../conditions/index.ts';
import { isGroup, isReference, type Operand, type Value } from '../values/index.ts';
import type { Catalogue } from './catalogue.ts';
import type { Places } from './place.ts';

/** Names for everything a plan mentions, from the places and the catalogue. */
export function namingOf(places: Places, catalogue: Catalogue): Naming {
  return {
    place: (ref) => places.get(ref)?.label ?? 'a value that does not exist',
    value: (value, ref) => {
      const option = places.get(ref)?.options?.find((o) => o.value === value);
      return option ? option.label : valueWords(value, catalogue);
    },
  };
}

/** A stated value as a reader knows it: people and groups by their names. */
export function valueWords(value: Value, catalogue: Catalogue): string {
  if (value === null || value === '') return 'nothing';
  if (Array.isArray(value)) return value.map((v) => valueWords(v, catalogue)).join(', ') || 'nothing';
  if (isGroup(value)) return own(catalogue.groups, value.group) ?? 'a group';
  if (typeof value === 'object') return own(catalogue.people, value.person)?.name ?? 'someone';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

/** The name of a team. */
export const teamWords = (id: string, catalogue: Catalogue): string => own(catalogue.teams, id)?.name ?? 'a team that does not exist';
/** "the manager of", or so many levels up; the person follows. */
export const managerWords = (levels: number | undefined): string => (levels && levels > 1 ? `the manager ${levels} levels above` : 'the manager of');
/** The same with its first letter large. */
export const capital = (s: string): string => s.charAt(0).toUpperCase() + s.slice(1);
/** "once", "3 times". */
export const timesWords = (n: number): string => (n === 1 ? 'once' : `${n} times`);
/** "2 h of working time", of an ISO 8601 duration. */
export const workingWords = (iso: string): string => `${minutesWords(workingMinutes(iso))} of working time`;

/** What a step hands over, in brackets: " (group Tide models, person Requester)". */
export function givenWords(inputs: Record<string, Operand>, slots: { name: string; label: string }[], naming: Naming): string {
  const operand = (o: Operand) => (isReference(o) ? naming.place(o.ref) : naming.value(o.literal, ''));
  const words = slots.flatMap((i) => {
    const given = own(inputs, i.name);
    return given ? [`${i.label.toLowerCase()} ${operand(given)}`] : [];
  });
  return words.length ? ` (${words.join(', ')})` : '';
}
