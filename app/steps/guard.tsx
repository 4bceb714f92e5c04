import { BranchToggle } from '~/sheet/branch-toggle';
import type { Guard } from '../../core/plans/index.ts';
import { Optional, SpanInput } from '~/sheet/duration-input';
import type { SettingsProps, StepLook } from './look';

const span = { length: 'P1D', counted: 'working' as const };

function GuardSettings({ step, onEdit }: SettingsProps<Guard>) {
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

export const guard: StepLook<Guard> = { Settings: GuardSettings, shape: 'holds' };
