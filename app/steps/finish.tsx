import { outcomeWords, type Finish, type Outcome } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

function FinishSettings({ step, onEdit }: SettingsProps<Finish>) {
  return (
    <Labelled label="Outcome" help="Whatever is still open is closed as no longer needed.">
      {(ids) => (
        <Select
          {...ids}
          value={step.outcome ?? ''}
          onValue={(v) => onEdit({ ...step, outcome: (v || undefined) as Outcome | undefined }, 'the outcome')}
        >
          <option value="">Choose …</option>
          {Object.entries(outcomeWords).map(([o, words]) => (
            <option key={o} value={o}>
              {words}
            </option>
          ))}
        </Select>
      )}
    </Labelled>
  );
}

export const finish: StepLook<Finish> = { Settings: FinishSettings, shape: 'end' };
