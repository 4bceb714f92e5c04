import { z } from 'zod';
import { line } from '../boundary/index.ts';
import type { Field } from '../forms/index.ts';
import { Id, Key, type Value } from '../values/index.ts';
import type { Happening } from './standing.ts';

/** What may happen, in the order and the words in which screens name it. */
export const staffHappenings: Record<Happening, string> = {
  starts: 'Somebody starts',
  returns: 'Somebody returns',
  otherDay: 'Somebody starts on another day',
  moves: 'Somebody moves',
  renamed: 'Somebody has another name',
  leaves: 'Somebody gets a last day',
  stays: 'Somebody stays after all',
};

/** What may have become of a happening, in words. */
export const staffFollowed = {
  open: 'Being asked for',
  asked: 'Asked for',
  noRule: 'Nothing: no rule',
  over: 'Nothing: is over already',
  refused: 'Could not be asked for',
  held: 'Waits for your word',
} as const;

const facts = {
  colleague: { label: 'Colleague', is: 'person' },
  name: { label: 'Name', is: 'text' },
  given: { label: 'Given names', is: 'text' },
  family: { label: 'Family name', is: 'text' },
  staffNumber: { label: 'Staff number', is: 'text' },
  department: { label: 'Department', is: 'text' },
  jobRole: { label: 'Job role', is: 'text' },
  place: { label: 'Place', is: 'text' },
  manager: { label: 'Manager', is: 'person' },
  contract: { label: 'Kind of contract', is: 'text' },
  from: { label: 'From', is: 'date' },
  firstDay: { label: 'First day', is: 'date' },
  lastDay: { label: 'Last day', is: 'date' },
} as const;
/** What the feed says of somebody, and what is known of it here: who they are, who their manager is. */
export const staffFacts = facts;
/** One of them, by its name. */
export type StaffFact = keyof typeof facts;

/** What the facts are of one happening; undefined where the feed does not say, or nobody here knows. `place`: what it is called. */
export type FactValues = Record<StaffFact, Value | undefined> & { placeId: string | undefined };

/** The facts that can answer a field, by its kind. */
export function factsFor(field: Pick<Field, 'kind'>): StaffFact[] {
  const is = ({ text: 'text', longText: 'text', choice: 'text', date: 'date', person: 'person' } as const)[field.kind as 'text'] as
    string | undefined;
  if (field.kind === 'location') return ['place'];
  return (Object.keys(facts) as StaffFact[]).filter((f) => facts[f].is === is);
}

/** When this happens to somebody, this item is asked for, with these answers. */
export const StaffRule = z.object({
  /** The item that is asked for. */
  item: Key,
  /** Who asks where the feed names no manager, or one whom nobody here knows. */
  asks: Key,
  /** What answers each field of its form; fields that are left out stay empty. */
  answers: z
    .array(z.object({ field: Id, from: z.enum(Object.keys(facts) as [StaffFact, ...StaffFact[]]).nullable(), words: line(200).trim() }))
    .max(200),
});
export type StaffRule = z.infer<typeof StaffRule>;

const plain = (words: string): string =>
  words
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** What would answer the fields of a form, by what they are called: a beginning for whoever makes a rule. */
export function proposedFacts(fields: Field[]): StaffRule['answers'] {
  return fields.map((field) => {
    const called = plain(field.label);
    const fits = factsFor(field);
    const from = fits.find((f) => called === plain(facts[f].label)) ?? fits.find((f) => called.endsWith(` ${plain(facts[f].label)}`)) ?? null;
    return { field: field.id, from, words: '' };
  });
}

/**
 * The answers to a form by a rule. A choice is answered by the option that is called so; what nobody knows stays empty, and the form
 * says then whether it can be.
 */
export function answersFrom(fields: Field[], rule: Pick<StaffRule, 'answers'>, values: FactValues): Record<string, Value> {
  const answers: Record<string, Value> = {};
  for (const field of fields) {
    const how = rule.answers.find((a) => a.field === field.id);
    if (!how || (how.from === null && how.words === '')) continue;
    const value = how.from === null ? how.words : values[how.from];
    const answer = field.kind === 'location' ? (values.placeId === undefined ? undefined : { location: values.placeId }) : chosen(field, value);
    if (answer !== undefined && answer !== null && answer !== '') answers[field.id] = answer;
  }
  return answers;
}

function chosen(field: Field, value: Value | undefined): Value | undefined {
  if (field.kind !== 'choice' || typeof value !== 'string') return value;
  const called = plain(value);
  return field.options?.find((o) => plain(o.label) === called || plain(o.value) === called)?.value;
}
