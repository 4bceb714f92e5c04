import { outcomeWords, type Finish, type Outcome } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import type { SettingsProps, StepLook } from './look';

function FinishSettings({ step, onEdit }: SettingsProps<Finish>) {
  return (
    <Labelled label="Outcome" help="Whatever is still open is closed as no longer needed.">
      {(ids) => (
        <select
          {...ids}
          className="input"
          value={step.outcome ?? ''}
          onChange={(e) => onEdit({ ...step, outcome: (e.target.value || undefined) as Outcome | undefined }, 'the outcome')}
        >
          <option value="">Choose …</option>
          {Object.entries(outcomeWords).map(([o, words]) => (
            <option key={o} value={o}>
              {words}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  );
}

export const finish: StepLook<Finish> = { Settings: FinishSettings, shape: 'end' };
