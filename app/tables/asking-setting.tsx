import { useState } from 'react';
import { fieldType } from '../../core/forms/index.ts';
import type { Place } from '../../core/plans/index.ts';
import type { RowAsking, TableDefinition } from '../../core/tables/index.ts';
import { ConditionEditor } from '~/sheet/condition-editor';
import { DurationInput } from '~/sheet/duration-input';
import { Combobox } from '~/ui/combobox';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { Select } from '~/ui/select';

type Partly = Partial<RowAsking>;
const whole = (a: Partly): a is RowAsking => a.item !== undefined && a.when !== undefined && a.orBy !== undefined && a.again !== undefined;

/** What follows when a row says something: the item that is asked for, by whom, and how often for one row. */
export function AskingSetting({
  definition,
  items,
  orBy,
  onChange,
}: {
  definition: TableDefinition;
  /** The published items whose form takes a row of this table. */
  items: { id: string; name: string }[];
  /** What the person is called who asks where a row names nobody. */
  orBy: string | undefined;
  onChange: (definition: TableDefinition) => void;
}) {
  // What is not whole yet is kept here until it is.
  const [partly, setPartly] = useState<Partly>(definition.asks ?? {});
  const [who, setWho] = useState<Chosen>();
  const set = (change: Partly) => {
    const next = { ...partly, ...change };
    setPartly(next);
    onChange({ ...definition, asks: next.item !== undefined && whole(next) ? next : undefined });
  };
  const people = definition.columns.filter((c) => c.kind === 'person');
  const places: Place[] = definition.columns.map((c) => ({
    ref: `row.${c.id}`,
    label: c.label || 'Unnamed column',
    type: fieldType(c.kind),
    always: c.required,
    source: 'The row',
    ...(c.options && { options: c.options }),
  }));
  return (
    <fieldset>
      <legend className="font-medium">What follows when a row says something</legend>
      <p className="mb-1 text-sm text-faint">
        After each reading, for each row of which this holds, the item is asked for once, with the row as its answer.
      </p>
      {items.length === 0 && partly.item === undefined ? (
        <p className="text-sm">Nothing. No published item has a form that takes a row of this table and asks nothing else.</p>
      ) : (
        <Labelled label="Then this item is asked for">
          {(ids) => (
            <Combobox
              {...ids}
              value={partly.item ?? ''}
              onValue={(item) => set(item === '' ? { item: undefined } : { item, again: partly.again ?? 'P90D', by: partly.by ?? people[0]?.id })}
            >
              <option value="">Nothing</option>
              {partly.item !== undefined && !items.some((i) => i.id === partly.item) && (
                <option value={partly.item}>An item that is not there any more, or asks for more</option>
              )}
              {items.map((i) => (
                <option key={i.id} value={i.id}>
                  {i.name}
                </option>
              ))}
            </Combobox>
          )}
        </Labelled>
      )}
      {partly.item !== undefined && (
        <div className="mt-3 space-y-4 border-l pl-3">
          <fieldset>
            <legend className="mb-1 font-medium">When</legend>
            <ConditionEditor label="When" places={places} value={partly.when} onChange={(when) => set({ when })} />
          </fieldset>
          <div className="grid items-end gap-4 sm:grid-cols-3">
            <Labelled label="Asked for as">
              {(ids) => (
                <Select {...ids} value={partly.by ?? ''} onValue={(by) => set({ by: by || undefined })}>
                  <option value="">Always the person beside</option>
                  {people.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.label || 'Unnamed column'}
                    </option>
                  ))}
                </Select>
              )}
            </Labelled>
            <Labelled label="Where that is nobody who works here, as" required>
              {(ids) => (
                <Picker
                  {...ids}
                  kind="person"
                  chosen={partly.orBy && { id: partly.orBy.person, name: who?.name ?? orBy ?? '' }}
                  onChoose={(c) => {
                    setWho(c);
                    set({ orBy: c && { person: c.id } });
                  }}
                />
              )}
            </Labelled>
            <Labelled label="For one row again after">
              {(ids) => (
                <DurationInput
                  id={ids.id}
                  label="For one row again after"
                  iso={partly.again ?? 'P90D'}
                  min={1}
                  onChange={(again) => set({ again })}
                />
              )}
            </Labelled>
          </div>
          {!whole(partly) && <p className="text-sm text-ochre">Nothing follows yet: say when, and who asks.</p>}
        </div>
      )}
    </fieldset>
  );
}
