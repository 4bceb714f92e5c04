import { freshFieldId } from '../../core/forms/index.ts';
import { replaceStep, type Approvers, type Gate, type Place } from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { NumberField } from '~/ui/number-field';
import { useEditor } from './draft-editor';
import { InputsEditor } from './inputs-editor';
import { NamedPeople } from './named-people';
import { PlaceSelect } from './place-select';
import type { Edit } from '~/steps';
import { TeamSelect } from './team-select';
import { UntilChosen } from './until-chosen';
import { useChosenKind } from './use-chosen-kind';
import { Select } from '~/ui/select';

/** Who decides at a gate. */
export function GateApprovers({ step, places, onEdit }: { step: Gate; places: Place[]; onEdit: Edit }) {
  const { catalogue, learn, draft, change } = useEditor();
  const a = step.approvers;
  const { kind, choose, waits } = useChosenKind(a?.from ?? '');
  const name = (id: string) => catalogue.people[id]?.name ?? 'somebody who is not known';
  const setFrom = (from: string) => {
    choose(from);
    const next = begun(from, places);
    if (next || from === '') onEdit({ ...step, approvers: next }, 'the approvers');
  };
  const groups = places.some((p) => p.type === 'group');
  /** The form asks for a group from now on, and its owners decide. */
  const askForGroup = () => {
    const id = freshFieldId(draft.form, 'Group');
    const field = { id, kind: 'group' as const, label: 'Group', required: true };
    const approvers: Approvers = { from: 'ownersOf', group: { ref: `form.${id}` } };
    change(
      { ...draft, form: { ...draft.form, fields: [...draft.form.fields, field] }, plan: replaceStep(draft.plan, { ...step, approvers }) },
      'Ask for a group, whose owners decide',
    );
  };
  const set = (approvers: Approvers, what = 'the approvers') => onEdit({ ...step, approvers }, what);
  const policy = a?.from === 'policy' ? catalogue.policies?.[a.policy] : undefined;
  return (
    <Labelled label="Approvers" help="Who decides.">
      {(ids) => (
        <div className="space-y-2">
          <Select {...ids} value={kind} onValue={(v) => setFrom(v)}>
            <option value="">Named people, or choose …</option>
            <option value="ownersOf">The owners of a group</option>
            <option value="managerOf">The manager of a person</option>
            <option value="person">A person, or people, from the values</option>
            <option value="team">A team</option>
            <option value="chain">The chain of managers above a person</option>
            <option value="policy">An approval policy</option>
            {a?.from === 'people' && <option value="people">Named people</option>}
          </Select>
          {kind === 'ownersOf' && !groups && (
            <div role="alert" className="border-l-3 border-ochre bg-ochre-wash px-3 py-2">
              <p>The form asks for no group, so there are no owners to ask.{waits && a && ' Until it does, the approvers stay as they were.'}</p>
              <Button className="mt-2" onClick={askForGroup}>
                Ask for a group in the form
              </Button>
            </div>
          )}
          {a?.from === 'ownersOf' && kind === 'ownersOf' && (
            <PlaceSelect
              aria-label="Which group"
              places={places}
              types={['group']}
              value={a.group.ref}
              onChange={(ref) => ref && onEdit({ ...step, approvers: { from: 'ownersOf', group: { ref } } }, 'the approvers')}
            />
          )}
          {!waits && (a?.from === 'managerOf' || a?.from === 'person') && (
            <PlaceSelect
              aria-label="Which person"
              places={places}
              types={a.from === 'person' ? ['person', 'people'] : ['person']}
              value={a.person.ref}
              onChange={(ref) => ref && set({ ...a, person: { ref } })}
            />
          )}
          {!waits && a?.from === 'managerOf' && (
            <NumberField
              before="Levels up"
              min={1}
              max={10}
              value={a.levels ?? 1}
              onValue={(levels) => levels !== undefined && set({ ...a, levels })}
            />
          )}
          {kind === 'team' && <TeamSelect value={a?.from === 'team' ? a.team : ''} onTeam={(team) => team && set({ from: 'team', team })} />}
          {!waits && a?.from === 'chain' && <Chain a={a} places={places} onChange={set} />}
          {kind === 'policy' && (
            <>
              <Select
                aria-label="Which policy"
                value={a?.from === 'policy' ? a.policy : ''}
                onValue={(v) => v && set({ from: 'policy', policy: v, inputs: {} })}
              >
                <option value="">Choose …</option>
                {Object.entries(catalogue.policies ?? {}).map(([id, p]) => (
                  <option key={id} value={id}>
                    {p.name}
                  </option>
                ))}
              </Select>
              {policy && a?.from === 'policy' && (
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
          {waits && (kind === 'team' || kind === 'policy') && <UntilChosen stands={a !== undefined} />}
          {(kind === '' || kind === 'people') && (
            <NamedPeople
              people={a?.from === 'people' ? a.people : []}
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

/** What needs nothing more to be whole; where several groups could be meant, the first is, and can be changed. */
function begun(from: string, places: Place[]): Approvers | undefined {
  const requester = { ref: 'request.requester' };
  const group = places.find((p) => p.type === 'group');
  if (from === 'ownersOf' && group) return { from, group: { ref: group.ref } };
  if (from === 'managerOf' || from === 'person') return { from, person: requester };
  return from === 'chain' ? { from, person: requester, levels: 2 } : undefined;
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
      <NumberField
        before="At most"
        after="levels"
        min={1}
        max={10}
        value={a.levels}
        onValue={(levels) => levels !== undefined && onChange({ ...a, levels })}
      />
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
          <NumberField
            key={i}
            before={`Level ${i + 1} up to`}
            placeholder="any amount"
            width="w-28"
            whole={false}
            optional
            min={0}
            value={a.limits?.[i]}
            onValue={(limit) => {
              const limits = Array.from({ length: i }, (_x, n) => a.limits?.[n] ?? 0);
              onChange({ ...a, limits: limit === undefined ? limits : [...limits, limit, ...(a.limits ?? []).slice(i + 1)] });
            }}
          />
        ))}
    </>
  );
}
