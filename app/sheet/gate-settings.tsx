import { X } from 'lucide-react';
import type { Approvers, Block, Gate, GateRule, NobodyAnswer, Place } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { Picker } from '~/ui/picker';
import { useEditor } from './draft-editor';
import { PlaceSelect } from './place-select';
import type { Edit } from './step-slip';

/** Who decides, by which rule, and what happens in the cases nobody likes to think of. */
export function GateSettings({ step, places, onEdit }: { step: Gate; places: Place[]; onEdit: Edit }) {
  const { catalogue, learn } = useEditor();
  const a = step.approvers;
  const name = (id: string) => catalogue.people[id]?.name ?? 'somebody who is not known';
  const setFrom = (from: string) => {
    const group = places.find((p) => p.type === 'group');
    const next: Approvers | undefined =
      from === 'ownersOf' && group
        ? { from, group: { ref: group.ref } }
        : from === 'managerOf' || from === 'person'
          ? { from, person: { ref: 'request.requester' } }
          : undefined;
    onEdit({ ...step, approvers: next }, 'the approvers');
  };
  return (
    <>
      <Labelled label="Approvers" help="Who decides.">
        {(ids) => (
          <div className="space-y-2">
            <select {...ids} className="input" value={a?.from ?? ''} onChange={(e) => setFrom(e.target.value)}>
              <option value="">Named people, or choose …</option>
              <option value="ownersOf">The owners of a group</option>
              <option value="managerOf">The manager of a person</option>
              <option value="person">A person from the values</option>
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
                types={['person']}
                value={a.person.ref}
                onChange={(ref) => ref && onEdit({ ...step, approvers: { from: a.from, person: { ref } } }, 'the approvers')}
              />
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
    </>
  );
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
