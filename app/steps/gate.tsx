import { CorrectsSetting } from '~/sheet/corrects-setting';
import { BranchToggle } from '~/sheet/branch-toggle';
import { DurationInput, Optional } from '~/sheet/duration-input';
import type { Gate, NobodyAnswer } from '../../core/plans/index.ts';
import { GateApprovers } from '~/sheet/gate-approvers';
import { Labelled } from '~/ui/field';
import { Picker } from '~/ui/picker';
import { RemindersSetting } from '~/sheet/reminders-setting';
import { RuleChoice } from '~/sheet/rule-choice';
import { useEditor } from '~/sheet/draft-editor';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

/** Who decides, by which rule, and what happens in the cases nobody likes to think of. */
function GateSettings({ step, places, onEdit }: SettingsProps<Gate>) {
  const { catalogue, learn } = useEditor();
  const a = step.approvers;
  const name = (id: string) => catalogue.people[id]?.name ?? 'somebody who is not known';
  const ruled = a?.from === 'policy' || a?.from === 'chain';
  return (
    <>
      <GateApprovers step={step} places={places} onEdit={onEdit} />
      {!ruled && (
        <Labelled label="Rule">
          {(ids) => <RuleChoice {...ids} rule={step.rule} sides={a?.from === 'several'} onChange={(rule) => onEdit({ ...step, rule }, 'the rule')} />}
        </Labelled>
      )}
      {!ruled && (
        <Labelled label="Order">
          {(ids) => (
            <Select {...ids} value={step.order ?? 'together'} onValue={(v) => onEdit({ ...step, order: v as 'together' | 'inTurn' }, 'the order')}>
              <option value="together">All at once</option>
              <option value="inTurn">One after another: the next when the one before approved</option>
            </Select>
          )}
        </Labelled>
      )}
      <Labelled label="If the requester is among them">
        {(ids) => (
          <Select {...ids} value={step.ownRequest} onValue={(v) => onEdit({ ...step, ownRequest: v as Gate['ownRequest'] }, 'own requests')}>
            <option value="skip">Leave them out</option>
            <option value="manager">Ask their manager instead</option>
            <option value="allow">Let them decide on their own request</option>
          </Select>
        )}
      </Labelled>
      <Labelled label="If there is nobody to ask" help="No owner, no manager, everybody left out: state what happens then.">
        {(ids) => (
          <div className="space-y-2">
            <Select
              {...ids}
              value={step.nobody?.then ?? ''}
              onValue={(v) => {
                const then = v;
                const next: NobodyAnswer | undefined = then === 'pass' || then === 'fail' ? { then } : undefined;
                onEdit({ ...step, nobody: next }, 'the answer when nobody can be asked');
              }}
            >
              <option value="">Ask somebody, or choose …</option>
              <option value="pass">Let it pass</option>
              <option value="fail">End as Failed, and tell the requester</option>
              {step.nobody?.then === 'ask' && <option value="ask">Ask {name(step.nobody.person.person)}</option>}
            </Select>
            {(!step.nobody || step.nobody.then === 'ask') && (
              <Picker
                aria-label="Whom to ask instead"
                kind="person"
                chosen={step.nobody?.then === 'ask' ? { id: step.nobody.person.person, name: name(step.nobody.person.person) } : undefined}
                onChoose={(c) => {
                  if (c) learn(c.id, c.name);
                  onEdit({ ...step, nobody: c ? { then: 'ask', person: { person: c.id } } : undefined }, 'the answer when nobody can be asked');
                }}
              />
            )}
          </div>
        )}
      </Labelled>
      <RemindersSetting
        label="Remind those who have not answered"
        value={step.reminders}
        onChange={(reminders) => onEdit({ ...step, reminders }, 'the reminders')}
      />
      <Optional
        label="Lapses when nobody answers"
        help="After working time."
        value={step.deadline}
        start="P5D"
        onChange={(deadline) => onEdit({ ...step, deadline }, 'the deadline')}
      >
        {(deadline) => (
          <DurationInput
            label="Lapses after working time"
            iso={deadline}
            min={1}
            onChange={(d) => onEdit({ ...step, deadline: d }, 'the deadline')}
          />
        )}
      </Optional>
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
