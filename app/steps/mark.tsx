import { DurationInput, Optional } from '~/sheet/duration-input';
import { Labelled } from '~/ui/field';
import type { Mark } from '../../core/plans/index.ts';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

function MarkSettings({ step, onEdit }: SettingsProps<Mark>) {
  return (
    <>
      <Labelled label="Shows">
        {(ids) => (
          <Select {...ids} value={step.shows} onValue={(v) => onEdit({ ...step, shows: v as Mark['shows'] }, 'what it shows')}>
            <option value="milestone">A milestone, reached here</option>
            <option value="status">A status, from here on</option>
          </Select>
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
      {step.shows === 'milestone' && (
        <Optional
          label="Promised to the requester"
          help="Working time from asking; what waits for their answer does not count."
          value={step.promised}
          start="P1D"
          onChange={(promised) => onEdit({ ...step, promised }, 'when it is promised')}
        >
          {(promised) => (
            <DurationInput
              label="Promised within working time"
              iso={promised}
              min={1}
              onChange={(d) => onEdit({ ...step, promised: d }, 'when it is promised')}
            />
          )}
        </Optional>
      )}
      <label className="flex items-center gap-2">
        <Checkbox checked={step.noReturn ?? false} onChecked={(on) => onEdit({ ...step, noReturn: on || undefined }, 'the point of no return')} />
        From here on the requester cannot withdraw
      </label>
    </>
  );
}

export const mark: StepLook<Mark> = { Settings: MarkSettings, shape: 'milestone' };
