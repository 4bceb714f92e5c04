import type { PartCall } from '../../core/plans/index.ts';
import { InputsEditor } from '~/sheet/inputs-editor';
import { Labelled } from '~/ui/field';
import { useEditor } from '~/sheet/draft-editor';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

function PartSettings({ step, places, onEdit }: SettingsProps<PartCall>) {
  const { catalogue } = useEditor();
  const part = step.part === undefined ? undefined : catalogue.parts?.[step.part];
  return (
    <>
      <Labelled label="Part" help="As it is published when this item is published.">
        {(ids) => (
          <Select {...ids} value={step.part ?? ''} onValue={(v) => onEdit({ ...step, part: v || undefined, inputs: {} }, 'the part')}>
            <option value="">Choose …</option>
            {Object.entries(catalogue.parts ?? {}).map(([id, p]) => (
              <option key={id} value={id}>
                {p.name}
              </option>
            ))}
          </Select>
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

export const part: StepLook<PartCall> = { Settings: PartSettings, shape: 'call' };
