import { foreseenIn } from '../../core/engine/index.ts';
import type { Answers, CellsOf, FieldProblem } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { isGroup, isPerson } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';
import { meetingsOf, meetingWords, type Joining } from './meetings.ts';

/** Something asked for, of which may come that somebody is put into groups. */
export interface Leads {
  by: string;
  whom?: string | undefined;
  definition: ItemDefinition;
  answers: Answers;
  cells: CellsOf;
}

/**
 * What these answers lead to for certain, once all agree, that is kept apart in one person, each at the field that names the group, else at
 * the first: by which of those asked about. What is known only on the way is looked at again before the directory is asked.
 */
export async function apartIn(tx: Reader, all: readonly Leads[]): Promise<Map<number, FieldProblem[]>> {
  const wanted = all.flatMap(({ by, whom = by, definition, answers, cells }, of) => {
    if (!definition.form.fields[0]) return [];
    const joins = foreseenIn(definition.plan, answers, by, cells, undefined, whom).acts.flatMap(({ action, certain, inputs, from }) => {
      const { group, person } = inputs;
      return action === 'directory.addMember' && certain && isGroup(group) && isPerson(person) && isId(group.group) && isId(person.person)
        ? [{ group: group.group, person: person.person, from: from['group'] ?? '' }]
        : [];
    });
    return joins.map((j) => ({
      of,
      by,
      field: fieldOf(definition, j.from),
      joining: { ...j, also: joins.flatMap((o) => (o.person === j.person ? [o.group] : [])) },
    }));
  });
  const found = new Map<number, FieldProblem[]>();
  const meetings = await meetingsOf(
    tx,
    wanted.map(({ joining: { person, group, also } }): Joining => ({ person, group, also })),
  );
  for (const m of meetings) {
    const { of, by, field } = wanted[m.nth]!;
    const told = found.get(of) ?? [];
    if (!told.some((p) => p.field === field)) found.set(of, [...told, { field, sentence: meetingWords(m, m.person === by) }]);
  }
  return found;
}

/** The field that a value is picked from; the first one where it is none. */
const fieldOf = ({ form }: ItemDefinition, ref: string): string => {
  const id = ref.startsWith('form.') ? ref.slice(5).split('.')[0] : undefined;
  return form.fields.find((f) => f.id === id && !f.held)?.id ?? form.fields.find((f) => !f.held)?.id ?? form.fields[0]!.id;
};
