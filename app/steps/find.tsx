import type { Find, Lookup } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { TeamSelect } from '~/sheet/team-select';
import { WholeNumber } from '~/ui/whole-number';
import { useEditor } from '~/sheet/draft-editor';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

/** Whom to look up; as of the moment the step runs. */
function FindSettings({ step, places, onEdit }: SettingsProps<Find>) {
  const { catalogue } = useEditor();
  const l = step.lookup;
  const set = (lookup: Lookup | undefined) => onEdit({ ...step, lookup }, 'what is looked up');
  const begin = (find: string) => {
    const group = places.find((p) => p.type === 'group')?.ref;
    const team = Object.keys(catalogue.teams ?? {})[0];
    if (find === 'managerOf' || find === 'reportsOf') set({ find, person: { ref: 'request.requester' } });
    else if ((find === 'ownersOf' || find === 'membersOf') && group) set({ find, group: { ref: group } });
    else set(find === 'teamMembers' && team ? { find, team } : undefined);
  };
  return (
    <Labelled label="Look up" help="One person may not be found; a list may be empty.">
      {(ids) => (
        <div className="space-y-2">
          <Select {...ids} value={l?.find ?? ''} onValue={(v) => begin(v)}>
            <option value="">Choose …</option>
            <option value="managerOf">The manager of a person</option>
            <option value="reportsOf">Everyone whose manager a person is</option>
            <option value="ownersOf">The owners of a group</option>
            <option value="membersOf">The members of a group</option>
            <option value="teamMembers">The members of a team</option>
          </Select>
          {l && 'person' in l && (
            <PlaceSelect
              aria-label="Which person"
              places={places}
              types={['person']}
              value={l.person.ref}
              onChange={(ref) => ref && set({ ...l, person: { ref } })}
            />
          )}
          {l?.find === 'managerOf' && <WholeNumber before="Levels up" max={10} value={l.levels ?? 1} onChange={(levels) => set({ ...l, levels })} />}
          {l && 'group' in l && (
            <PlaceSelect
              aria-label="Which group"
              places={places}
              types={['group']}
              value={l.group.ref}
              onChange={(ref) => ref && set({ ...l, group: { ref } })}
            />
          )}
          {l?.find === 'teamMembers' && <TeamSelect value={l.team} onTeam={(team) => set({ find: 'teamMembers', team })} />}
        </div>
      )}
    </Labelled>
  );
}

export const find: StepLook<Find> = { Settings: FindSettings, shape: 'reckoning' };
