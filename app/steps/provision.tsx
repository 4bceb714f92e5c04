import { type Provision, defaultRetries, secretsOf, statedInputs } from '../../core/plans/index.ts';
import { DurationInput } from '~/sheet/duration-input';
import { InputsEditor } from '~/sheet/inputs-editor';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { useEditor } from '~/sheet/draft-editor';
import type { SettingsProps, StepLook } from './look';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

/** Which action of which system, with which values, and how often it is tried. */
function ProvisionSettings({ step, places, onEdit }: SettingsProps<Provision>) {
  const { catalogue } = useEditor();
  const systems = [...new Set(catalogue.actions.map((a) => a.system))];
  const action = catalogue.actions.find((a) => a.id === step.action);
  const undoer = catalogue.actions.find((a) => a.id === action?.undoneBy);
  const retries = step.retries ?? defaultRetries;
  const pauses = Array.from({ length: retries.times }, (_, i) => retries.firstPauseSeconds * retries.factor ** i);
  const total = Math.round(pauses.reduce((a, b) => a + b, 0));
  return (
    <>
      <Labelled label="Action">
        {(ids) => (
          <Select
            {...ids}
            value={step.action ?? ''}
            onValue={(v) => onEdit({ ...step, action: v || undefined, inputs: {}, note: undefined, mirrors: undefined }, 'the action')}
          >
            <option value="">Choose …</option>
            {systems.map((s) => (
              <optgroup key={s} label={s}>
                {catalogue.actions
                  .filter((a) => a.system === s)
                  .map((a) => (
                    <option key={a.id} value={a.id}>
                      {a.label}
                    </option>
                  ))}
              </optgroup>
            ))}
          </Select>
        )}
      </Labelled>
      {action && (
        <InputsEditor
          key={action.id}
          slots={statedInputs(action)}
          inputs={step.inputs}
          places={places}
          onChange={(inputs, label) => onEdit({ ...step, inputs }, label)}
        />
      )}
      {action && (step.note || secretsOf(action).length > 0) && (
        <fieldset className="space-y-2 border-l-2 border-violet pl-3">
          <legend className="mb-1 font-medium">Sealed note</legend>
          <p className="text-sm text-faint">
            {secretsOf(action)
              .map((s) => s.label)
              .join(', ') || 'Nothing here is secret'}
            : shown once, to one person, signed in. It is in no message, answer or trace.
          </p>
          <InputsEditor
            slots={[{ name: 'to', label: 'Whom it is for', type: 'person', required: true }]}
            inputs={step.note ? { to: step.note.to } : {}}
            places={places}
            onChange={({ to }) => onEdit({ ...step, note: to && { to, openFor: step.note?.openFor ?? 'P3D' } }, 'whom the sealed note is for')}
          />
          {step.note && (
            <Labelled label="It can be opened for">
              {(ids) => (
                <DurationInput
                  id={ids.id}
                  label="It can be opened for"
                  iso={step.note!.openFor}
                  min={1}
                  onChange={(openFor) => onEdit({ ...step, note: { ...step.note!, openFor } }, 'how long it can be opened')}
                />
              )}
            </Labelled>
          )}
        </fieldset>
      )}
      {action && (step.mirrors || action.exchanges) && (
        <label className="flex gap-2">
          <Checkbox
            className="mt-0.5"
            checked={step.mirrors === true}
            onChecked={(on) => onEdit({ ...step, mirrors: on || undefined }, 'whether what is said is mirrored')}
          />
          <span>
            What is said is mirrored
            <span className="block text-sm text-faint">
              {action.exchanges === 'bothWays'
                ? `While ${action.system} has it under way, people there read what who asked and the desk write to each other, and what people there write stands on the request. Notes within the desk stay here.`
                : action.exchanges === 'here'
                  ? `While ${action.system} has it under way, what people there write stands on the request.`
                  : `Nobody at ${action.system} can say anything with this action.`}
            </span>
          </span>
        </label>
      )}
      {action && (
        <Labelled label="When the request is undone" help="Item settings say after which outcomes. Undone in reverse order.">
          {(ids) => (
            <Select {...ids} value={step.undo ?? ''} onValue={(v) => onEdit({ ...step, undo: v || undefined }, 'what undoes it')}>
              <option value="">{undoer ? `${undoer.label} (as ${action.system} states)` : `Nothing (${action.system} states no action)`}</option>
              {undoer && <option value="none">Nothing</option>}
              {catalogue.actions
                .filter((other) => other.system === action.system && other.id !== action.id && other.id !== action.undoneBy)
                .map((other) => (
                  <option key={other.id} value={other.id}>
                    {other.label}
                  </option>
                ))}
            </Select>
          )}
        </Labelled>
      )}
      <fieldset>
        <legend className="mb-1 font-medium">When a call fails</legend>
        <p className="mb-1 text-sm text-faint">
          Tried again {retries.times} times within {total < 120 ? `${total} s` : `${Math.round(total / 60)} min`}, each pause{' '}
          {retries.factor === 1 ? 'as long as' : `${retries.factor} times`} the one before. After that the step waits for a person.
        </p>
        <div className="grid grid-cols-3 gap-2 text-sm">
          <div>
            <span aria-hidden className="text-faint">
              Tries again
            </span>
            <NumberField
              aria-label="Tries again"
              width="w-full"
              min={0}
              max={30}
              value={retries.times}
              onValue={(times) => times !== undefined && onEdit({ ...step, retries: { ...retries, times } }, 'the retries')}
            />
          </div>
          <div>
            <span aria-hidden className="text-faint">
              First pause, s
            </span>
            <NumberField
              aria-label="First pause, s"
              width="w-full"
              min={1}
              max={3600}
              value={retries.firstPauseSeconds}
              onValue={(firstPauseSeconds) =>
                firstPauseSeconds !== undefined && onEdit({ ...step, retries: { ...retries, firstPauseSeconds } }, 'the retries')
              }
            />
          </div>
          <div>
            <span aria-hidden className="text-faint">
              Pauses grow by
            </span>
            <NumberField
              aria-label="Pauses grow by"
              width="w-full"
              min={1}
              max={10}
              value={retries.factor}
              onValue={(factor) => factor !== undefined && onEdit({ ...step, retries: { ...retries, factor } }, 'the retries')}
            />
          </div>
        </div>
      </fieldset>
    </>
  );
}

export const provision: StepLook<Provision> = { Settings: ProvisionSettings, shape: 'call' };
