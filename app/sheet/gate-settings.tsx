import { X } from 'lucide-react';
import type { Approvers, Block, Gate, GateRule, NobodyAnswer, Place } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { Picker } from '~/ui/picker';
import { useEditor } from './draft-editor';
import { DurationInput, Optional } from './duration-input';
import { InputsEditor } from './inputs-editor';
import { PlaceSelect } from './place-select';
import type { Edit } from './step-slip';

/** Who decides, by which rule, and what happens in the cases nobody likes to think of. */
export function GateSettings({ step, places, onEdit }: { step: Gate; places: Place[]; onEdit: Edit }) {
  const { catalogue, learn, draft } = useEditor();
  const a = step.approvers;
  const name = (id: string) => catalogue.people[id]?.name ?? 'somebody who is not known';
  const setFrom = (from: string) =>
    onEdit(
      { ...step, approvers: begun(from, places, Object.keys(catalogue.teams ?? {})[0], Object.keys(catalogue.policies ?? {})[0]) },
      'the approvers',
    );
  const set = (approvers: Approvers, what = 'the approvers') => onEdit({ ...step, approvers }, what);
  const policy = a?.from === 'policy' ? catalogue.policies?.[a.policy] : undefined;
  const ruled = a?.from === 'policy' || a?.from === 'chain';
  return (
    <>
      <Labelled label="Approvers" help="Who decides.">
        {(ids) => (
          <div className="space-y-2">
            <select {...ids} className="input" value={a?.from ?? ''} onChange={(e) => setFrom(e.target.value)}>
              <option value="">Named people, or choose …</option>
              <option value="ownersOf">The owners of a group</option>
              <option value="managerOf">The manager of a person</option>
              <option value="person">A person, or people, from the values</option>
              <option value="team">A team</option>
              <option value="chain">The chain of managers above a person</option>
              <option value="policy">An approval policy</option>
              {a?.from === 'people' && <option value="people">Named people</option>}
            </select>
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
            {a?.from === 'managerOf' && (
              <label className="flex items-center gap-2 text-sm">
                Levels up
                <input
                  type="number"
                  className="input numbers w-16!"
                  min={1}
                  max={10}
                  value={a.levels ?? 1}
                  onChange={(e) => set({ ...a, levels: whole(e.target.value, 1, 10) })}
                />
              </label>
            )}
            {a?.from === 'team' && (
              <select className="input" aria-label="Which team" value={a.team} onChange={(e) => set({ from: 'team', team: e.target.value })}>
                <TeamOptions />
              </select>
            )}
            {a?.from === 'chain' && <Chain a={a} places={places} onChange={set} />}
            {a?.from === 'policy' && (
              <>
                <select
                  className="input"
                  aria-label="Which policy"
                  value={a.policy}
                  onChange={(e) => set({ from: 'policy', policy: e.target.value, inputs: {} })}
                >
                  <option value="">Choose …</option>
                  {Object.entries(catalogue.policies ?? {}).map(([id, p]) => (
                    <option key={id} value={id}>
                      {p.name}
                    </option>
                  ))}
                </select>
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
              <>
                <ul>
                  {(a?.people ?? []).map((p) => (
                    <li key={p.person} className="flex items-center justify-between py-0.5">
                      {name(p.person)}
                      <button
                        type="button"
                        className="flex size-6 items-center justify-center text-faint hover:text-coral"
                        onClick={() => {
                          const people = (a?.people ?? []).filter((x) => x.person !== p.person);
                          onEdit({ ...step, approvers: people.length ? { from: 'people', people } : undefined }, 'the approvers');
                        }}
                      >
                        <X size={14} aria-hidden />
                        <span className="sr-only">Do not ask {name(p.person)}</span>
                      </button>
                    </li>
                  ))}
                </ul>
                <Picker
                  key={a?.people.length ?? 0}
                  aria-label="Add a named approver"
                  kind="person"
                  chosen={undefined}
                  onChoose={(c) => {
                    if (!c || a?.people.some((p) => p.person === c.id)) return;
                    learn(c.id, c.name);
                    onEdit({ ...step, approvers: { from: 'people', people: [...(a?.people ?? []), { person: c.id }] } }, 'the approvers');
                  }}
                />
              </>
            )}
          </div>
        )}
      </Labelled>
      {!ruled && (
        <Labelled label="Rule">
          {(ids) => (
            <div className="flex gap-2">
              <select
                {...ids}
                className="input"
                value={step.rule.rule}
                onChange={(e) =>
                  onEdit(
                    { ...step, rule: (e.target.value === 'atLeast' ? { rule: 'atLeast', count: 2 } : { rule: e.target.value }) as GateRule },
                    'the rule',
                  )
                }
              >
                <option value="first">The first reply decides</option>
                <option value="any">One approval is enough</option>
                <option value="all">All must approve</option>
                <option value="atLeast">At least so many must approve</option>
              </select>
              {step.rule.rule === 'atLeast' && (
                <input
                  type="number"
                  aria-label="How many must approve"
                  className="input numbers w-16!"
                  min={1}
                  max={50}
                  value={step.rule.count}
                  onChange={(e) =>
                    onEdit({ ...step, rule: { rule: 'atLeast', count: Math.min(50, Math.max(1, Number(e.target.value) || 1)) } }, 'the rule')
                  }
                />
              )}
            </div>
          )}
        </Labelled>
      )}
      {!ruled && (
        <Labelled label="Order">
          {(ids) => (
            <select
              {...ids}
              className="input"
              value={step.order ?? 'together'}
              onChange={(e) => onEdit({ ...step, order: e.target.value as 'together' | 'inTurn' }, 'the order')}
            >
              <option value="together">All at once</option>
              <option value="inTurn">One after another: the next when the one before approved</option>
            </select>
          )}
        </Labelled>
      )}
      <Labelled label="If the requester is among them">
        {(ids) => (
          <select
            {...ids}
            className="input"
            value={step.ownRequest}
            onChange={(e) => onEdit({ ...step, ownRequest: e.target.value as Gate['ownRequest'] }, 'own requests')}
          >
            <option value="skip">Leave them out</option>
            <option value="manager">Ask their manager instead</option>
            <option value="allow">Let them decide on their own request</option>
          </select>
        )}
      </Labelled>
      <Labelled label="If there is nobody to ask" help="No owner, no manager, everybody left out: state what happens then.">
        {(ids) => (
          <div className="space-y-2">
            <select
              {...ids}
              className="input"
              value={step.nobody?.then ?? ''}
              onChange={(e) => {
                const then = e.target.value;
                const next: NobodyAnswer | undefined = then === 'pass' || then === 'fail' ? { then } : undefined;
                onEdit({ ...step, nobody: next }, 'the answer when nobody can be asked');
              }}
            >
              <option value="">Ask somebody, or choose …</option>
              <option value="pass">Let it pass</option>
              <option value="fail">End as Failed, and tell the requester</option>
              {step.nobody?.then === 'ask' && <option value="ask">Ask {name(step.nobody.person.person)}</option>}
            </select>
            {(!step.nobody || step.nobody.then === 'ask') && (
              <Picker
                aria-label="Whom to ask instead"
                kind="person"
                chosen={step.nobody?.then === 'ask' ? { id: step.nobody.person.person, name: name(step.nobody.person.person) } : undefined}
                onChoose={(c) => {
                  if (c) learn(c.id, c.name);
                  onEdit({ ...step, nobody: c ? { then: 'ask', person: { person: c.id } } : undefined }, 'the answer when nobody can be asked');
                }}
              />
            )}
          </div>
        )}
      </Labelled>
      <Optional
        label="Remind those who have not answered"
        value={step.reminders}
        start={{ after: 'P1D', times: 2 }}
        onChange={(reminders) => onEdit({ ...step, reminders }, 'the reminders')}
      >
        {(r) => (
          <div className="grid grid-cols-2 gap-2">
            <DurationInput
              label="Remind after working time"
              iso={r.after}
              min={1}
              onChange={(after) => onEdit({ ...step, reminders: { ...r, after } }, 'the reminders')}
            />
            <label className="flex items-center gap-2 text-sm">
              at most
              <input
                type="number"
                className="input numbers w-14!"
                min={1}
                max={10}
                aria-label="Reminders at most"
                value={r.times}
                onChange={(e) => onEdit({ ...step, reminders: { ...r, times: whole(e.target.value, 1, 10) } }, 'the reminders')}
              />
            </label>
          </div>
        )}
      </Optional>
      <Optional
        label="Lapses when nobody answers"
        help="After working time."
        value={step.deadline}
        start="P5D"
        onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')}
      >
        {(deadline) => (
          <DurationInput
            label="Lapses after working time"
            iso={deadline}
            min={1}
            onChange={(d) => onEdit({ ...step, deadline: d }, 'the deadline')}
          />
        )}
      </Optional>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-sea"
          checked={step.sendBack ?? false}
          onChange={(e) => onEdit({ ...step, sendBack: e.target.checked }, 'sending back')}
        />
        Approvers may send it back to the requester
      </label>
      {draft.form.fields.length > 0 && (
        <fieldset>
          <legend className="mb-1 font-medium">Approvers may correct</legend>
          {draft.form.fields.map((f) => (
            <label key={f.id} className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                className="size-4 accent-sea"
                checked={step.corrects?.includes(f.id) ?? false}
                onChange={(e) =>
                  onEdit(
                    { ...step, corrects: e.target.checked ? [...(step.corrects ?? []), f.id] : (step.corrects ?? []).filter((c) => c !== f.id) },
                    'what approvers may correct',
                  )
                }
              />
              {f.label}
            </label>
          ))}
        </fieldset>
      )}
      <BranchToggle
        label="Steps of its own when approved"
        without="Goes on with the next step."
        block={step.approved}
        onChange={(approved) => onEdit({ ...step, approved }, 'what happens when approved')}
      />
      <BranchToggle
        label="Steps of its own when declined"
        without="Ends as Declined; the requester is told the comment."
        block={step.declined}
        onChange={(declined) => onEdit({ ...step, declined }, 'what happens when declined')}
      />
      {(step.deadline !== undefined || step.lapsed) && (
        <BranchToggle
          label="Steps of its own when lapsed"
          without="Ends as Lapsed; the requester is told."
          block={step.lapsed}
          onChange={(lapsed) => onEdit({ ...step, lapsed }, 'what happens when lapsed')}
        />
      )}
    </>
  );
}

const whole = (typed: string, min: number, max: number) => Math.min(max, Math.max(min, Math.round(Number(typed)) || min));

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
      <label className="flex items-center gap-2 text-sm">
        At most
        <input
          type="number"
          className="input numbers w-16!"
          min={1}
          max={10}
          value={a.levels}
          onChange={(e) => onChange({ ...a, levels: whole(e.target.value, 1, 10) })}
        />
        levels
      </label>
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

/** The teams that exist, as options. */
export function TeamOptions() {
  const { catalogue } = useEditor();
  return Object.entries(catalogue.teams ?? {}).map(([id, t]) => (
    <option key={id} value={id}>
      {t.name}
    </option>
  ));
}

export function BranchToggle({
  label,
  without,
  block,
  onChange,
}: {
  label: string;
  without: string;
  block: Block | undefined;
  onChange: (block: Block | undefined) => void;
}) {
  return (
    <label className="flex gap-2">
      <input
        type="checkbox"
        className="mt-0.5 size-4 accent-sea"
        checked={block !== undefined}
        onChange={(e) => onChange(e.target.checked ? [] : undefined)}
      />
      <span>
        {label}
        <span className="block text-sm text-faint">
          {block ? `${block.length} ${block.length === 1 ? 'step' : 'steps'}, in the band below the plan.` : without}
        </span>
      </span>
    </label>
  );
}
