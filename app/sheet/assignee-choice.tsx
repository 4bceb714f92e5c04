import type { Assignee, Place } from '../../core/plans/index.ts';
import { Picker } from '~/ui/picker';
import { Select, type SelectProps } from '~/ui/select';
import { useDrafted } from './draft-editor';
import { PlaceSelect } from './place-select';
import { TeamSelect } from './team-select';
import { UntilChosen } from './until-chosen';
import { useChosenKind } from './use-chosen-kind';

/** Who does something: a team, a named person, or the person or team that a value names. `called` begins the names of what is picked. */
export function AssigneeChoice({
  value: a,
  places,
  called,
  onChange,
  ...select
}: {
  value: Assignee | undefined;
  places: Place[];
  called: string;
  onChange: (assignee: Assignee | undefined) => void;
} & Omit<SelectProps, 'children' | 'value' | 'onValue' | 'onChange'>) {
  const { catalogue, learn } = useDrafted();
  const how = !a ? '' : 'team' in a ? 'team' : 'from' in a ? 'from' : 'person';
  const who = useChosenKind(how);
  return (
    <div className="space-y-2">
      <Select
        {...select}
        value={who.kind}
        onValue={(kind) => {
          who.choose(kind);
          if (kind !== 'team') onChange(kind === 'from' ? { from: { ref: 'request.requester' } } : undefined);
        }}
      >
        <option value="">One named person, or choose …</option>
        <option value="team">A team</option>
        <option value="from">A person or a team from the values</option>
        {how === 'person' && <option value="person">One named person</option>}
      </Select>
      {who.kind === 'team' && <TeamSelect value={a && 'team' in a ? a.team : ''} onTeam={(team) => team && onChange({ team })} />}
      {who.waits && <UntilChosen stands={a !== undefined} />}
      {who.kind === 'from' && a && 'from' in a && (
        <PlaceSelect
          aria-label="Which person or team"
          places={places}
          types={['person', 'team']}
          value={a.from.ref}
          onChange={(ref) => ref && onChange({ from: { ref } })}
        />
      )}
      {(who.kind === '' || who.kind === 'person') && (
        <Picker
          aria-label={called}
          kind="person"
          chosen={a && 'person' in a ? { id: a.person.person, name: catalogue.people[a.person.person]?.name ?? '' } : undefined}
          onChoose={(c) => {
            if (c) learn(c.id, c.name);
            onChange(c ? { person: { person: c.id } } : undefined);
          }}
        />
      )}
    </div>
  );
}
