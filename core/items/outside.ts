import { fieldType, hasColumns, hasFiles, type Column, type Field } from '../forms/index.ts';
import { roomOf, stop, walk, type Finding, type Plan } from '../plans/index.ts';
import type { ValueType } from '../values/index.ts';
import type { ItemDefinition } from './definition.ts';

/** Types whose values are found among the people, groups and places of the organisation, or in its tables: nobody from outside looks there. */
const ofTheHouse: ReadonlySet<ValueType> = new Set(['person', 'people', 'group', 'team', 'location', 'row', 'holding']);

/** Whether people from outside can answer a field; of a list of lines, each of its columns. */
export const isForOutside = (field: Field | Column): boolean =>
  'columns' in field && hasColumns(field.kind)
    ? (field.columns ?? []).every(isForOutside)
    : !hasFiles(field.kind) && !ofTheHouse.has(fieldType(field.kind));

/** What the check finds in an item that can be asked for from outside. */
export function checkOutside(d: { outsiders?: boolean | undefined; form: ItemDefinition['form']; plan: Plan }): Finding[] {
  if (!d.outsiders) return [];
  const mend = 'Ask for it in words or as a choice, or do not offer the item from outside.';
  const asked = d.form.fields.filter((f) => !f.held && !isForOutside(f));
  return [
    ...asked.map((f): Finding => ({
      code: 'not-for-outside',
      severity: 'stops',
      field: f.id,
      sentence: `“${f.label}” cannot be answered from outside: it is chosen among what only people here may see, or brings a file.`,
      mend,
    })),
    ...[...walk(d.plan.steps)].flatMap(({ step }) =>
      (roomOf(step).asksRequester?.(step) ?? [])
        .filter((f) => !isForOutside(f))
        .map((f) =>
          stop(step, {
            code: 'not-for-outside',
            sentence: `“${step.name}” asks back for “${f.label}”, which cannot be answered from outside.`,
            mend,
          }),
        ),
    ),
  ];
}
