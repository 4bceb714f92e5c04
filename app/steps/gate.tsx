import { BranchToggle } from '~/sheet/branch-toggle';
import { CorrectsSetting } from '~/sheet/corrects-setting';
import { GateAgreement, type GateWords } from '~/sheet/gate-agreement';
import type { Gate } from '../../core/plans/index.ts';
import type { SettingsProps, StepLook } from './look';
import { Checkbox } from '~/ui/checkbox';

const words: GateWords = {
  own: 'If the requester is among them',
  allow: 'Let them decide on their own request',
  fails: 'End as Failed, and tell the requester',
};

/** Who decides, by which rule, and what happens in the cases nobody likes to think of. */
function GateSettings({ step, places, onEdit }: SettingsProps<Gate>) {
  return (
    <>
      <GateAgreement step={step} places={places} words={words} onEdit={onEdit} />
      <label className="flex items-center gap-2">
        <Checkbox checked={step.sendBack ?? false} onChecked={(on) => onEdit({ ...step, sendBack: on }, 'sending back')} />
        Approvers may send it back to the requester
      </label>
      <CorrectsSetting
        legend="Approvers may correct"
        chosen={step.corrects ?? []}
        onChange={(corrects) => onEdit({ ...step, corrects }, 'what approvers may correct')}
      />
      <BranchToggle
        label="Steps of its own when approved"
        without="Goes on with the next step."
        block={step.approved}
        onChange={(approved) => onEdit({ ...step, approved }, 'what happens when approved')}
      />
      <BranchToggle
        label="Steps of its own when declined"
        without="Ends as Declined; the requester is told the comment."
        block={step.declined}
        onChange={(declined) => onEdit({ ...step, declined }, 'what happens when declined')}
      />
      {(step.deadline !== undefined || step.lapsed) && (
        <BranchToggle
          label="Steps of its own when lapsed"
          without="Ends as Lapsed; the requester is told."
          block={step.lapsed}
          onChange={(lapsed) => onEdit({ ...step, lapsed }, 'what happens when lapsed')}
        />
      )}
    </>
  );
}

export const gate: StepLook<Gate> = { Settings: GateSettings, shape: 'gate' };
