import { BranchToggle } from '~/sheet/branch-toggle';
import type { Closing } from '../../core/plans/index.ts';
import type { SettingsProps, StepLook } from './look';

const outcomes = [
  ['declined', 'Before it ends as declined'],
  ['withdrawn', 'Before it ends as withdrawn'],
  ['lapsed', 'Before it ends as lapsed'],
  ['failed', 'Before it ends as failed'],
] as const;

function ClosingSettings({ step, onEdit }: SettingsProps<Closing>) {
  return (
    <>
      <p className="text-faint">
        A request that goes well passes this by. One that is to end otherwise comes here first, from wherever it is: what is open is withdrawn, then
        these steps are done, then it ends, and what the plan takes back by itself is taken back.
      </p>
      {outcomes.map(([outcome, label]) => (
        <BranchToggle
          key={outcome}
          label={label}
          without="It ends at once."
          block={step[outcome]}
          onChange={(block) => onEdit({ ...step, [outcome]: block }, 'what is done before it ends')}
        />
      ))}
    </>
  );
}

export const closing: StepLook<Closing> = { Settings: ClosingSettings, shape: 'holds' };
