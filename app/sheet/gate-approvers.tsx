import type { Approvers, Gate, Place } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { WholeNumber } from '~/ui/whole-number';
import { useEditor } from './draft-editor';
import { InputsEditor } from './inputs-editor';
import { NamedPeople } from './named-people';
import { PlaceSelect } from './place-select';
import type { Edit } from '~/steps';
import { TeamSelect } from './team-select';
import { Select } from '~/ui/select';

/** Who decides at a gate. */
export function GateApprovers({ step, places, onEdit }: { step: Gate; places: Place[]; onEdit: Edit }) {
  const { catalogue, learn } = useEditor();
  const a = step.approvers;
  const name = (id: string) => catalogue.people[id]?.name ?? 'somebody who is not known';
  const setFrom = (from: string) =>
    onEdit(
      { ...step, approvers: begun(from, places, Object.keys(catalogue.teams ?? {})[0], Object.keys(catalogue.policies ?? {})[0]) },
      'the approvers',
    );
  const set = (approvers: Approvers, what = 'the approvers') => onEdit({ ...step, approvers }, what);
  const policy = a?.from === 'policy' ? catalogue.policies?.[a.policy] : undefined;
  return (
    <Labelled label="Approvers" help="Who decides.">
      {(ids) => (
        <div className="space-y-2">
          <Select {...ids} value={a?.from ?? ''} onValue={(v) => setFrom(v)}>
            <option value="">Named people, or choose …</option>
            <option value="ownersOf">The owners of a group</option>
            <option value="managerOf">The manager of a person</option>
            <option value="person">A person, or people, from the values</option>
            <option value="team">A team</option>
            <option value="chain">The chain of managers above a person</option>
            <option value="policy">An approval policy</option>
            {a?.from === 'people' && <option value="people">Named people</option>}
          </Select>
          {a?.from === 'ownersOf' && (
            <PlaceSelect
              aria-label="Which group"
              places={places}
              types={['group']}
              value={a.group.ref}
              onChange={(ref) => ref && onEdit({ ...step, approvers: { from: 'ownersOf', group: { ref } } }, 'the approvers')}
            />
          )}
          {(a?.from === 'managerOf' || a?.from === 'person') && (
            <PlaceSelect
              aria-label="Which person"
              places={places}
              types={a.from === 'person' ? ['person', 'people'] : ['person']}
              value={a.person.ref}
              onChange={(ref) => ref && set({ ...a, person: { ref } })}
            />
          )}
          {a?.from === 'managerOf' && <WholeNumber before="Levels up" max={10} value={a.levels ?? 1} onChange={(levels) => set({ ...a, levels })} />}
          {a?.from === 'team' && <TeamSelect value={a.team} onTeam={(team) => set({ from: 'team', team })} />}
          {a?.from === 'chain' && <Chain a={a} places={places} onChange={set} />}
          {a?.from === 'policy' && (
            <>
              <Select aria-label="Which policy" value={a.policy} onValue={(v) => set({ from: 'policy', policy: v, inputs: {} })}>
                <option value="">Choose …</option>
                {Object.entries(catalogue.policies ?? {}).map(([id, p]) => (
                  <option key={id} value={id}>
                    {p.name}
                  </option>
                ))}
              </Select>
              {policy && (
                <InputsEditor
                  key={a.policy}
                  slots={policy.inputs.map((i) => ({ ...i, required: true }))}
                  inputs={a.inputs}
                  places={places}
                  onChange={(inputs, label) => set({ ...a, inputs }, label)}
                />
              )}
            </>
          )}
          {(!a || a.from === 'people') && (
            <NamedPeople
              people={a?.people ?? []}
              name={name}
              addLabel="Add a named approver"
              learn={learn}
              onChange={(people) => onEdit({ ...step, approvers: people.length ? { from: 'people', people } : undefined }, 'the approvers')}
            />
          )}
        </div>
      )}
    </Labelled>
  );
}

function begun(from: string, places: Place[], team: string | undefined, policy: string | undefined): Approvers | undefined {
  const requester = { ref: 'request.requester' };
  const group = places.find((p) => p.type === 'group');
  if (from === 'ownersOf' && group) return { from, group: { ref: group.ref } };
  if (from === 'managerOf' || from === 'person') return { from, person: requester };
  if (from === 'chain') return { from, person: requester, levels: 2 };
  if (from === 'team' && team) return { from, team };
  return from === 'policy' ? { from, policy: policy ?? '', inputs: {} } : undefined;
}

type ChainOf = Extract<Approvers, { from: 'chain' }>;

/** How far a chain of command climbs: so many levels, or until a level whose limit covers an amount. */
function Chain({ a, places, onChange }: { a: ChainOf; places: Place[]; onChange: (a: ChainOf) => void }) {
  return (
    <>
      <PlaceSelect
        aria-label="Above whom"
        places={places}
        types={['person']}
        value={a.person.ref}
        onChange={(ref) => ref && onChange({ ...a, person: { ref } })}
      />
      <WholeNumber before="At most" after="levels" max={10} value={a.levels} onChange={(levels) => onChange({ ...a, levels })} />
      <PlaceSelect
        aria-label="Until a limit of which amount"
        empty="All of them, whatever the amount"
        places={places}
        types={['number']}
        value={a.amount?.ref}
        onChange={(ref) => onChange({ ...a, amount: ref ? { ref } : undefined })}
      />
      {a.amount &&
        Array.from({ length: a.levels }, (_, i) => (
          <label key={i} className="flex items-center gap-2 text-sm">
            Level {i + 1} up to
            <input
              type="number"
              className="input numbers w-28!"
              placeholder="any amount"
              value={a.limits?.[i] ?? ''}
              onChange={(e) => {
                const limits = Array.from({ length: i }, (_x, n) => a.limits?.[n] ?? 0);
                onChange({ ...a, limits: e.target.value === '' ? limits : [...limits, Number(e.target.value), ...(a.limits ?? []).slice(i + 1)] });
              }}
            />
          </label>
        ))}
    </>
  );
}
