import { ConditionEditor } from '~/sheet/condition-editor';
import { Optional, SpanInput } from '~/sheet/duration-input';
import type { Repeat } from '../../core/plans/index.ts';
import type { SettingsProps, StepLook } from './look';
import { NumberField } from '~/ui/number-field';

const span = { length: 'P1D', counted: 'working' as const };

function RepeatSettings({ step, placesInside, onEdit }: SettingsProps<Repeat>) {
  return (
    <>
      <fieldset>
        <legend className="mb-1 font-medium">Until</legend>
        <ConditionEditor label="Until" places={placesInside} value={step.until} onChange={(until) => onEdit({ ...step, until }, 'when it ends')} />
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
          <NumberField
            aria-label="Tries at most"
            width="w-24"
            min={1}
            max={1000}
            value={tries}
            onValue={(next) => next !== undefined && onEdit({ ...step, tries: next }, 'the number of tries')}
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

export const repeat: StepLook<Repeat> = { Settings: RepeatSettings, shape: 'holds' };
