import type { Reminders } from '../../core/plans/index.ts';
import { NumberField } from '~/ui/number-field';
import { DurationInput, Optional } from './duration-input';

/** Whether, after how much working time and how often at most somebody is reminded. */
export function RemindersSetting({
  label,
  help,
  after = 'Remind after working time',
  value,
  onChange,
}: {
  label: string;
  help?: string;
  /** What the time is called. */
  after?: string;
  value: Reminders | undefined;
  onChange: (reminders: Reminders | undefined) => void;
}) {
  return (
    <Optional label={label} {...(help !== undefined && { help })} value={value} start={{ after: 'P1D', times: 2 }} onChange={onChange}>
      {(r) => (
        <div className="grid grid-cols-2 gap-2">
          <DurationInput label={after} iso={r.after} min={1} onChange={(time) => onChange({ ...r, after: time })} />
          <NumberField
            before="at most"
            aria-label="Reminders at most"
            min={1}
            max={10}
            value={r.times}
            onValue={(times) => times !== undefined && onChange({ ...r, times })}
          />
        </div>
      )}
    </Optional>
  );
}
