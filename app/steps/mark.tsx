import { Labelled } from '~/ui/field';
import type { Mark } from '../../core/plans/index.ts';
import type { SettingsProps, StepLook } from './look';

function MarkSettings({ step, onEdit }: SettingsProps<Mark>) {
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

export const mark: StepLook<Mark> = { Settings: MarkSettings, shape: 'milestone' };
