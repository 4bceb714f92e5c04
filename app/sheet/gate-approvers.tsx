import { freshFieldId } from '../../core/forms/index.ts';
import { replaceStep, type Approvers, type ApproverSource, type Gate, type Place } from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';
import { begunSource, choiceOf, OneSource, sourceChoices, SourceSettings } from './approver-source';
import { useDrafted } from './draft-editor';
import { InputsEditor } from './inputs-editor';
import { PlaceSelect } from './place-select';
import { UntilChosen } from './until-chosen';
import { useChosenKind } from './use-chosen-kind';

/** The kind of approvers that stands, as it is chosen. */
const chosenAs = (a: Approvers | undefined): string =>
  !a ? '' : a.from === 'several' || a.from === 'chain' || a.from === 'policy' ? a.from : choiceOf(a);
const isSource = (a: Approvers | undefined): a is ApproverSource =>
  a !== undefined && a.from !== 'several' && a.from !== 'chain' && a.from !== 'policy';

/** Who decides at a gate. */
export function GateApprovers({ step, places, onEdit }: { step: Gate; places: Place[]; onEdit: (gate: Gate, what: string) => void }) {
  const { catalogue, draft, change } = useDrafted();
  const a = step.approvers;
  const { kind, choose, waits } = useChosenKind(chosenAs(a));
  // With one side only there is no "one of each".
  const ruled = (approvers: Approvers | undefined): Pick<Gate, 'approvers' | 'rule'> => ({
    approvers,
    rule: step.rule.rule === 'oneOfEach' && approvers?.from !== 'several' ? { rule: 'any' } : step.rule,
  });
  const set = (approvers: Approvers | undefined, what = 'the approvers') => onEdit({ ...step, ...ruled(approvers) }, what);
  const setFrom = (from: string) => {
    choose(from);
    const next = begun(from, places, a);
    if (next || from === '') set(next);
  };
  const groups = places.some((p) => p.type === 'group');
  /** The form asks for a group from now on, and its owners decide. */
  const askForGroup = () => {
    const id = freshFieldId(draft.form, 'Group');
    const field = { id, kind: 'group' as const, label: 'Group', required: true };
    const approvers: Approvers = { from: 'ownersOf', group: { ref: `form.${id}` } };
    change(
      { ...draft, form: { ...draft.form, fields: [...draft.form.fields, field] }, plan: replaceStep(draft.plan, { ...step, ...ruled(approvers) }) },
      'Ask for a group, whose owners decide',
    );
  };
  const policy = a?.from === 'policy' ? catalogue.policies?.[a.policy] : undefined;
  return (
    <Labelled label="Approvers" help="Who decides.">
      {(ids) => (
        <div className="space-y-2">
          <Select {...ids} value={kind} onValue={(v) => setFrom(v)}>
            <option value="">Named people, or choose …</option>
            {Object.entries(sourceChoices).map(([of, words]) =>
              of === 'people' && kind !== of ? null : (
                <option key={of} value={of}>
                  {words}
                </option>
              ),
            )}
            <option value="several">Several of these</option>
            <option value="chain">The chain of managers above a person</option>
            <option value="policy">An approval policy</option>
          </Select>
          {kind === 'ownersOf' && !groups && (
            <div role="alert" className="border-l-3 border-ochre bg-ochre-wash px-3 py-2">
              <p>The form asks for no group, so there are no owners to ask.{waits && a && ' Until it does, the approvers stay as they were.'}</p>
              <Button className="mt-2" onClick={askForGroup}>
                Ask for a group in the form
              </Button>
            </div>
          )}
          {kind !== 'several' && kind !== 'chain' && kind !== 'policy' && (
            <SourceSettings a={isSource(a) ? a : undefined} kind={kind} places={places} onChange={set} />
          )}
          {!waits && a?.from === 'several' && (
            <ListEditor
              rows={a.of}
              keyOf={(_, at) => at}
              nameOf={(_, at) => `side ${at + 1}`}
              addLabel="Ask others besides"
              make={(): ApproverSource => ({ from: 'managerOf', person: { ref: 'request.requester' } })}
              onChange={(of, what) => set({ from: 'several', of: of.slice(0, 6) }, what)}
              least={2}
              ruled
            >
              {({ row, at, set: setRow }) => (
                <OneSource
                  key={`${a.of.length}`}
                  a={row}
                  label={`Side ${at + 1}`}
                  places={places}
                  onChange={(next) => setRow(next, 'the approvers')}
                />
              )}
            </ListEditor>
          )}
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
          {waits && kind === 'policy' && <UntilChosen stands={a !== undefined} />}
        </div>
      )}
    </Labelled>
  );
}

/** What needs nothing more to be whole. Several begin with what stands, and the manager besides. */
function begun(from: string, places: Place[], stands: Approvers | undefined): Approvers | undefined {
  const person = { ref: 'request.requester' };
  if (from === 'chain') return { from, person, levels: 2 };
  if (from !== 'several') return begunSource(from, places);
  const manager: ApproverSource = { from: 'managerOf', person };
  const first = isSource(stands) ? stands : (begunSource('ownersOf', places) ?? manager);
  return { from, of: [first, first.from === 'managerOf' ? { ...manager, levels: (first.levels ?? 1) + 1 } : manager] };
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
