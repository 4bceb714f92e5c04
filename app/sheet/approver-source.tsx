import { isReference } from '../../core/values/index.ts';
import type { ApproverSource, Place } from '../../core/plans/index.ts';
import { NumberField } from '~/ui/number-field';
import { Picker } from '~/ui/picker';
import { Select } from '~/ui/select';
import { useStated } from './draft-editor';
import { NamedPeople } from './named-people';
import { PlaceSelect } from './place-select';
import { TeamSelect } from './team-select';
import { UntilChosen } from './until-chosen';
import { useChosenKind } from './use-chosen-kind';

/** What a place that approvers are found in can be, as it is chosen. */
export const sourceChoices = {
  ownersOf: 'The owners of a group',
  ownersOfOne: 'The owners of one group, always the same',
  managerOf: 'The manager of a person',
  person: 'A person, or people, from the values',
  team: 'A team',
  people: 'Named people',
} as const;
export type SourceChoice = keyof typeof sourceChoices;

/** Which of these stands. */
export const choiceOf = (a: ApproverSource): SourceChoice => (a.from === 'ownersOf' && !isReference(a.group) ? 'ownersOfOne' : a.from);

/** What needs nothing more to be whole; where several groups could be meant, the first is, and can be changed. */
export function begunSource(choice: string, places: Place[]): ApproverSource | undefined {
  const group = places.find((p) => p.type === 'group');
  if (choice === 'ownersOf' && group) return { from: 'ownersOf', group: { ref: group.ref } };
  if (choice === 'managerOf' || choice === 'person') return { from: choice, person: { ref: 'request.requester' } };
  return undefined;
}

/** The settings of one place that approvers are found in; `kind` is chosen, and `a` what stands, which may be another until it is whole. */
export function SourceSettings({
  a,
  kind,
  places,
  onChange,
}: {
  a: ApproverSource | undefined;
  kind: string;
  places: Place[];
  onChange: (a: ApproverSource | undefined) => void;
}) {
  const { nameOf, learn } = useStated();
  const name = (id: string) => nameOf('person', id) ?? 'somebody who is not known';
  const stands = a !== undefined && choiceOf(a) === kind;
  return (
    <>
      {stands && a.from === 'ownersOf' && isReference(a.group) && (
        <PlaceSelect
          aria-label="Which group"
          places={places}
          types={['group']}
          value={a.group.ref}
          onChange={(ref) => ref && onChange({ from: 'ownersOf', group: { ref } })}
        />
      )}
      {kind === 'ownersOfOne' && (
        <Picker
          aria-label="The group"
          kind="group"
          chosen={
            stands && a.from === 'ownersOf' && !isReference(a.group)
              ? { id: a.group.literal.group, name: nameOf('group', a.group.literal.group) ?? 'a group that is not known' }
              : undefined
          }
          onChoose={(c) => {
            if (!c) return;
            learn(c.id, c.name, 'group');
            onChange({ from: 'ownersOf', group: { literal: { group: c.id } } });
          }}
        />
      )}
      {stands && (a.from === 'managerOf' || a.from === 'person') && (
        <PlaceSelect
          aria-label="Which person"
          places={places}
          types={a.from === 'person' ? ['person', 'people'] : ['person']}
          value={a.person.ref}
          onChange={(ref) => ref && onChange({ ...a, person: { ref } })}
        />
      )}
      {stands && a.from === 'managerOf' && (
        <NumberField
          before="Levels up"
          min={1}
          max={10}
          value={a.levels ?? 1}
          onValue={(levels) => levels !== undefined && onChange({ ...a, levels })}
        />
      )}
      {kind === 'team' && <TeamSelect value={a?.from === 'team' ? a.team : ''} onTeam={(team) => team && onChange({ from: 'team', team })} />}
      {!stands && (kind === 'team' || kind === 'ownersOfOne') && <UntilChosen stands={a !== undefined} />}
      {(kind === '' || kind === 'people') && (
        <NamedPeople
          people={a?.from === 'people' ? a.people : []}
          name={name}
          addLabel="Add a named approver"
          learn={learn}
          onChange={(people) => onChange(people.length ? { from: 'people', people } : undefined)}
        />
      )}
    </>
  );
}

/** One of several places that approvers are found in. */
export function OneSource({
  a,
  label,
  places,
  onChange,
}: {
  a: ApproverSource;
  label: string;
  places: Place[];
  onChange: (a: ApproverSource) => void;
}) {
  const { kind, choose } = useChosenKind(choiceOf(a));
  const offered = Object.entries(sourceChoices).filter(([of]) => of !== 'ownersOf' || kind === 'ownersOf' || places.some((p) => p.type === 'group'));
  return (
    <div className="min-w-0 grow space-y-2">
      <Select
        aria-label={label}
        value={kind}
        onValue={(v) => {
          choose(v);
          const next = begunSource(v, places);
          if (next) onChange(next);
        }}
      >
        {offered.map(([of, words]) => (
          <option key={of} value={of}>
            {words}
          </option>
        ))}
      </Select>
      <SourceSettings a={a} kind={kind} places={places} onChange={(next) => next && onChange(next)} />
    </div>
  );
}
