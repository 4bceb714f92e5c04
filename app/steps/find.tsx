import { useState } from 'react';
import { fieldType } from '../../core/forms/index.ts';
import type { Find, Lookup } from '../../core/plans/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { InputsEditor } from '~/sheet/inputs-editor';
import { Combobox } from '~/ui/combobox';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { TeamSelect } from '~/sheet/team-select';
import { NumberField } from '~/ui/number-field';
import { UntilChosen } from '~/sheet/until-chosen';
import { useChosenKind } from '~/sheet/use-chosen-kind';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

/** Whom to look up; as of the moment the step runs. */
function FindSettings({ step, places, onEdit }: SettingsProps<Find>) {
  const l = step.lookup;
  const { kind, choose, waits } = useChosenKind(l?.find ?? '');
  const groups = places.some((p) => p.type === 'group');
  const set = (lookup: Lookup | undefined) => onEdit({ ...step, lookup }, 'what is looked up');
  const begin = (find: string) => {
    choose(find);
    const group = places.find((p) => p.type === 'group')?.ref;
    if (find === 'managerOf' || find === 'reportsOf') set({ find, person: { ref: 'request.requester' } });
    else if ((find === 'ownersOf' || find === 'membersOf') && group) set({ find, group: { ref: group } });
    else if (find === 'rows') set({ find, where: {} });
    else if (find === 'row') set({ find, where: {}, several: 'fail' });
    else if (find === '') set(undefined);
  };
  return (
    <Labelled label="Look up" help="One person may not be found; a list may be empty.">
      {(ids) => (
        <div className="space-y-2">
          <Select {...ids} value={kind} onValue={(v) => begin(v)}>
            <option value="">Choose …</option>
            <option value="managerOf">The manager of a person</option>
            <option value="reportsOf">Everyone whose manager a person is</option>
            <option value="ownersOf">The owners of a group</option>
            <option value="membersOf">The members of a group</option>
            <option value="teamMembers">The members of a team</option>
            <option value="row">A row of a reference table</option>
            <option value="rows">All rows of a reference table that say something</option>
          </Select>
          {l && l.find === kind && 'person' in l && (
            <PlaceSelect
              aria-label="Which person"
              places={places}
              types={['person']}
              value={l.person.ref}
              onChange={(ref) => ref && set({ ...l, person: { ref } })}
            />
          )}
          {kind === 'managerOf' && l?.find === 'managerOf' && (
            <NumberField
              before="Levels up"
              min={1}
              max={10}
              value={l.levels ?? 1}
              onValue={(levels) => levels !== undefined && set({ ...l, levels })}
            />
          )}
          {(kind === 'ownersOf' || kind === 'membersOf') && !groups && (
            <p role="alert" className="border-l-3 border-ochre bg-ochre-wash px-3 py-2">
              The form asks for no group, and no step before gives one. Add a field for a group on the leaf Ask.
            </p>
          )}
          {l && l.find === kind && 'group' in l && (
            <PlaceSelect
              aria-label="Which group"
              places={places}
              types={['group']}
              value={l.group.ref}
              onChange={(ref) => ref && set({ ...l, group: { ref } })}
            />
          )}
          {kind === 'teamMembers' && (
            <TeamSelect value={l?.find === 'teamMembers' ? l.team : ''} onTeam={(team) => team && set({ find: 'teamMembers', team })} />
          )}
          {l && l.find === kind && 'where' in l && <RowsLookup lookup={l} places={places} onChange={set} />}
          {waits && <UntilChosen stands={l !== undefined} />}
        </div>
      )}
    </Labelled>
  );
}

type OfRows = Extract<Lookup, { where: unknown }>;

/** In which table rows are looked up, what their columns must say, and what several are. */
function RowsLookup({ lookup: l, places, onChange }: { lookup: OfRows; places: SettingsProps<Find>['places']; onChange: (lookup: Lookup) => void }) {
  const { catalogue } = useEditor();
  const table = l.table === undefined ? undefined : catalogue.tables?.[l.table];
  const slots = (table?.columns ?? []).map((c) => ({ name: c.id, label: c.label, type: fieldType(c.kind), required: false }));
  const [more, setMore] = useState<string>();
  const shown = slots.filter((s) => Object.hasOwn(l.where, s.name) || s.name === more);
  const left = slots.filter((s) => !shown.includes(s));
  return (
    <div className="space-y-3">
      <Combobox aria-label="In which table" value={l.table ?? ''} onValue={(id) => onChange({ ...l, table: id || undefined, where: {} })}>
        <option value="">Choose the table …</option>
        {Object.entries(catalogue.tables ?? {}).map(([id, t]) => (
          <option key={id} value={id}>
            {t.name}
          </option>
        ))}
      </Combobox>
      <InputsEditor slots={shown} inputs={l.where} places={[...places]} onChange={(where) => onChange({ ...l, where })} />
      {table && left.length > 0 && (
        <Select aria-label="A column that must say something" value="" onValue={(id) => id && setMore(id)}>
          <option value="">{shown.length > 0 ? 'And in which another column says …' : 'In which a column says …'}</option>
          {left.map((s) => (
            <option key={s.name} value={s.name}>
              {s.label}
            </option>
          ))}
        </Select>
      )}
      {l.find === 'row' && (
        <Select aria-label="Where several are found" value={l.several} onValue={(v) => onChange({ ...l, several: v as typeof l.several })}>
          <option value="fail">Several are a failure</option>
          <option value="first">Of several, the first by its key</option>
        </Select>
      )}
    </div>
  );
}

export const find: StepLook<Find> = { Settings: FindSettings, shape: 'reckoning' };
