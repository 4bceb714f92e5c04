import { Plus, Trash2 } from 'lucide-react';
import type { ForEach, Guard, Mark, PartCall, Pause, Place, Repeat, Together } from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { ConditionEditor } from './condition-editor';
import { useEditor } from './draft-editor';
import { Optional, SpanInput } from './duration-input';
import { BranchToggle } from './branch-toggle';
import { InputsEditor } from './inputs-editor';
import { PlaceSelect } from './place-select';
import type { Edit } from './step-slip';

interface Props<S> {
  step: S;
  places: Place[];
  onEdit: Edit;
}
const span = { length: 'P1D', counted: 'working' as const };

export function TogetherSettings({ step, onEdit }: Props<Together>) {
  const set = (branches: Together['branches']) => onEdit({ ...step, branches }, 'the branches');
  return (
    <>
      <Labelled label="Goes on">
        {(ids) => (
          <select
            {...ids}
            className="input"
            value={step.join}
            onChange={(e) => onEdit({ ...step, join: e.target.value as Together['join'] }, 'how they join')}
          >
            <option value="all">When all branches are done</option>
            <option value="first">When the first is done; the others are withdrawn</option>
          </select>
        )}
      </Labelled>
      <fieldset>
        <legend className="mb-1 font-medium">Branches</legend>
        <ul className="space-y-1.5">
          {step.branches.map((b, i) => (
            <li key={b.id} className="flex gap-1">
              <input
                className="input"
                aria-label={`Name of branch ${i + 1}`}
                maxLength={120}
                value={b.name}
                onChange={(e) => set(step.branches.with(i, { ...b, name: e.target.value }))}
              />
              <Button weight="quiet" title={`Remove the branch “${b.name}” and its steps`} onClick={() => set(step.branches.toSpliced(i, 1))}>
                <Trash2 size={14} aria-hidden />
                <span className="sr-only">Remove the branch “{b.name}” and its steps</span>
              </Button>
            </li>
          ))}
        </ul>
        <Button
          className="mt-2"
          onClick={() =>
            set([
              ...step.branches,
              {
                id: freshKey('branch'),
                name: `Branch ${step.branches.length + 1}`,
                block: [],
              },
            ])
          }
        >
          <Plus size={13} aria-hidden /> Add a branch
        </Button>
      </fieldset>
    </>
  );
}

export function ForEachSettings({ step, places, onEdit }: Props<ForEach>) {
  const how = step.atOnce === undefined ? 'all' : step.atOnce === 1 ? 'order' : 'some';
  return (
    <>
      <Labelled label="List" help="Read when the step begins. Inside, the row is a value of its own.">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={['people', 'texts']}
            value={step.list?.ref}
            onChange={(ref) => onEdit({ ...step, list: ref ? { ref } : undefined }, 'the list')}
          />
        )}
      </Labelled>
      <Labelled label="Rounds">
        {(ids) => (
          <div className="flex gap-2">
            <select
              {...ids}
              className="input"
              value={how}
              onChange={(e) =>
                onEdit({ ...step, atOnce: e.target.value === 'all' ? undefined : e.target.value === 'order' ? 1 : 3 }, 'how many rounds at once')
              }
            >
              <option value="all">All at once</option>
              <option value="some">Up to so many at once</option>
              <option value="order">One after another</option>
            </select>
            {how === 'some' && (
              <input
                type="number"
                className="input numbers w-16!"
                aria-label="How many at once"
                min={2}
                max={100}
                value={step.atOnce}
                onChange={(e) => onEdit({ ...step, atOnce: Math.min(100, Math.max(2, Number(e.target.value) || 2)) }, 'how many rounds at once')}
              />
            )}
          </div>
        )}
      </Labelled>
    </>
  );
}

export function RepeatSettings({ step, places, onEdit }: Props<Repeat>) {
  return (
    <>
      <fieldset>
        <legend className="mb-1 font-medium">Until</legend>
        <ConditionEditor label="Until" places={places} value={step.until} onChange={(until) => onEdit({ ...step, until }, 'when it ends')} />
      </fieldset>
      <Optional
        label="Pause between tries"
        value={step.pause}
        start={{ length: 'PT5M', counted: 'always' as const }}
        onChange={(pause) => onEdit({ ...step, pause }, 'the pause')}
      >
        {(pause) => <SpanInput label="Pause between tries" span={pause} onChange={(p) => onEdit({ ...step, pause: p }, 'the pause')} />}
      </Optional>
      <Optional label="At most so many tries" value={step.tries} start={12} onChange={(tries) => onEdit({ ...step, tries }, 'the number of tries')}>
        {(tries) => (
          <input
            type="number"
            className="input numbers w-24!"
            aria-label="Tries at most"
            min={1}
            max={1000}
            value={tries}
            onChange={(e) => onEdit({ ...step, tries: Math.min(1000, Math.max(1, Number(e.target.value) || 1)) }, 'the number of tries')}
          />
        )}
      </Optional>
      <Optional
        label="For at most so long"
        help="Exhausted is a failure: a guard around it takes it, or a person."
        value={step.deadline}
        start={span}
        onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')}
      >
        {(d) => <SpanInput label="For at most" span={d} onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')} />}
      </Optional>
    </>
  );
}

export function GuardSettings({ step, onEdit }: Props<Guard>) {
  return (
    <>
      <p className="text-faint">A failure inside, after the step’s own retries, withdraws the rest and goes on with “If it fails”.</p>
      <Optional
        label="Must be done in time"
        value={step.deadline}
        start={span}
        onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')}
      >
        {(d) => <SpanInput label="In time" span={d} onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')} />}
      </Optional>
      {step.deadline && (
        <BranchToggle
          label="Steps of its own if late"
          without="Does what it does if it fails."
          block={step.late}
          onChange={(late) => onEdit({ ...step, late }, 'what happens if late')}
        />
      )}
    </>
  );
}

export function PauseSettings({ step, places, onEdit }: Props<Pause>) {
  const { until } = step;
  return (
    <Labelled label="Until">
      {(ids) => (
        <div className="space-y-2">
          <select
            {...ids}
            className="input"
            value={!until ? '' : 'span' in until ? 'span' : 'date'}
            onChange={(e) => {
              const date = places.find((p) => p.type === 'date')?.ref ?? 'request.opened';
              onEdit(
                { ...step, until: e.target.value === 'span' ? { span } : e.target.value === 'date' ? { date: { ref: date } } : undefined },
                'how long it lasts',
              );
            }}
          >
            <option value="">Choose …</option>
            <option value="span">A length of time has passed</option>
            <option value="date">The desk opens on a date</option>
          </select>
          {until && 'span' in until && (
            <SpanInput label="Length" span={until.span} onChange={(s) => onEdit({ ...step, until: { span: s } }, 'how long it lasts')} />
          )}
          {until && 'date' in until && (
            <PlaceSelect
              aria-label="Which date"
              places={places}
              types={['date', 'instant']}
              value={until.date.ref}
              onChange={(ref) => ref && onEdit({ ...step, until: { date: { ref } } }, 'how long it lasts')}
            />
          )}
        </div>
      )}
    </Labelled>
  );
}

export function MarkSettings({ step, onEdit }: Props<Mark>) {
  return (
    <>
      <Labelled label="Shows">
        {(ids) => (
          <select
            {...ids}
            className="input"
            value={step.shows}
            onChange={(e) => onEdit({ ...step, shows: e.target.value as Mark['shows'] }, 'what it shows')}
          >
            <option value="milestone">A milestone, reached here</option>
            <option value="status">A status, from here on</option>
          </select>
        )}
      </Labelled>
      <Labelled label="Words the requester sees" required>
        {(ids) => (
          <input
            {...ids}
            className="input"
            maxLength={120}
            value={step.words}
            onChange={(e) => onEdit({ ...step, words: e.target.value }, 'its words')}
          />
        )}
      </Labelled>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-sea"
          checked={step.noReturn ?? false}
          onChange={(e) => onEdit({ ...step, noReturn: e.target.checked || undefined }, 'the point of no return')}
        />
        From here on the requester cannot withdraw
      </label>
    </>
  );
}

export function PartSettings({ step, places, onEdit }: Props<PartCall>) {
  const { catalogue } = useEditor();
  const part = step.part === undefined ? undefined : catalogue.parts?.[step.part];
  return (
    <>
      <Labelled label="Part" help="As it is published when this item is published.">
        {(ids) => (
          <select
            {...ids}
            className="input"
            value={step.part ?? ''}
            onChange={(e) => onEdit({ ...step, part: e.target.value || undefined, inputs: {} }, 'the part')}
          >
            <option value="">Choose …</option>
            {Object.entries(catalogue.parts ?? {}).map(([id, p]) => (
              <option key={id} value={id}>
                {p.name}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      {part && (
        <InputsEditor
          key={step.part}
          slots={part.inputs}
          inputs={step.inputs}
          places={places}
          onChange={(inputs, label) => onEdit({ ...step, inputs }, label)}
        />
      )}
    </>
  );
}
