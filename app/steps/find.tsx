import type { Find, Lookup } from '../../core/plans/index.ts';
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
          {waits && <UntilChosen stands={l !== undefined} />}
        </div>
      )}
    </Labelled>
  );
}

export const find: StepLook<Find> = { Settings: FindSettings, shape: 'reckoning' };
