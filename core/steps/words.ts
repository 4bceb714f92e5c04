import { own } from '../boundary/index.ts';
import { minutesWords, workingMinutes } from '../calendar/index.ts';
import type { Naming } from '../conditions/index.ts';
import { isReference, valueWords, type Operand, type Value, type ValueNames } from '../values/index.ts';
import type { Catalogue } from './catalogue.ts';
import type { Places } from './place.ts';

/** Names for everything a plan mentions, from the places and the catalogue. */
export function namingOf(places: Places, catalogue: Catalogue): Naming {
  return {
    place: (ref) => places.get(ref)?.label ?? 'a value that does not exist',
    type: (ref) => places.get(ref)?.type,
    value: (value, ref) => {
      const option = places.get(ref)?.options?.find((o) => o.value === value);
      return option ? option.label : statedWords(value, catalogue);
    },
  };
}

/** Names by id, as the catalogue has them. */
const namesIn =
  (catalogue: Catalogue): ValueNames =>
  (kind, id) =>
    own(catalogue.stated, `${kind} ${id}`) ??
    (kind === 'person' ? own(catalogue.people, id)?.name : kind === 'team' ? own(catalogue.teams, id)?.name : undefined);

/** A stated value as a reader knows it: what is held by an id by its name. */
export const statedWords = (value: Value, catalogue: Catalogue): string => valueWords(value, namesIn(catalogue)) || 'nothing';

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

/** What is picked or stated, in words. */
export const operandWords = (o: Operand, naming: Naming): string => (isReference(o) ? naming.place(o.ref) : naming.value(o.literal, ''));

/** What a step hands over, in brackets: " (group Tide models, person Requester)". */
export function givenWords(inputs: Record<string, Operand>, slots: { name: string; label: string }[], naming: Naming): string {
  const words = slots.flatMap((i) => {
    const given = own(inputs, i.name);
    return given ? [`${i.label.toLowerCase()} ${operandWords(given, naming)}`] : [];
  });
  return words.length ? ` (${words.join(', ')})` : '';
}
