import type { Place, TaskAssignee } from '../../core/plans/index.ts';
import { Combobox } from '~/ui/combobox';
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
  routed = false,
  ...select
}: {
  value: TaskAssignee | undefined;
  /** Whether a routing table may name them. */
  routed?: boolean;
  places: Place[];
  called: string;
  onChange: (assignee: TaskAssignee | undefined) => void;
} & Omit<SelectProps, 'children' | 'value' | 'onValue' | 'onChange'>) {
  const { catalogue, learn } = useDrafted();
  const how = !a ? '' : 'team' in a ? 'team' : 'from' in a ? 'from' : 'routed' in a ? 'routed' : 'person';
  const who = useChosenKind(how);
  return (
    <div className="space-y-2">
      <Select
        {...select}
        value={who.kind}
        onValue={(kind) => {
          who.choose(kind);
          if (kind !== 'team' && kind !== 'routed') onChange(kind === 'from' ? { from: { ref: 'request.requester' } } : undefined);
        }}
      >
        <option value="">One named person, or choose …</option>
        <option value="team">A team</option>
        <option value="from">A person or a team from the values</option>
        {routed && <option value="routed">Whoever a routing table names</option>}
        {how === 'person' && <option value="person">One named person</option>}
      </Select>
      {who.kind === 'team' && <TeamSelect value={a && 'team' in a ? a.team : ''} onTeam={(team) => team && onChange({ team })} />}
      {who.kind === 'routed' && (
        <>
          <Combobox
            aria-label="Which routing table"
            value={a && 'routed' in a ? a.routed : ''}
            onValue={(table) => table && onChange({ ...(a && 'routed' in a && a), routed: table })}
          >
            {!(a && 'routed' in a) && <option value="">Choose a table …</option>}
            {Object.entries(catalogue.routing ?? {}).map(([id, t]) => (
              <option key={id} value={id}>
                {t.name}
              </option>
            ))}
          </Combobox>
          {a && 'routed' in a && (
            <PlaceSelect
              aria-label="Where it is to be done"
              empty="Where the requester works"
              places={places}
              types={['location']}
              value={a.place?.ref}
              onChange={(ref) => onChange({ routed: a.routed, ...(ref && { place: { ref } }) })}
            />
          )}
        </>
      )}
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
