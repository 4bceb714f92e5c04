import type { Gate, NobodyAnswer, Place } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { Picker } from '~/ui/picker';
import { Select } from '~/ui/select';
import { DurationInput, Optional } from './duration-input';
import { useDrafted } from './draft-editor';
import { GateApprovers } from './gate-approvers';
import { RemindersSetting } from './reminders-setting';
import { RuleChoice } from './rule-choice';

/** What a gate is called whose request, and what becomes of it where it fails. */
export interface GateWords {
  own: string;
  allow: string;
  fails: string;
}

/** Who decides, by which rule, and what happens in the cases nobody likes to think of. */
export function GateAgreement({
  step,
  places,
  words,
  onEdit,
}: {
  step: Gate;
  places: Place[];
  words: GateWords;
  onEdit: (gate: Gate, what: string) => void;
}) {
  const { catalogue, learn } = useDrafted();
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
      <Labelled label={words.own}>
        {(ids) => (
          <Select {...ids} value={step.ownRequest} onValue={(v) => onEdit({ ...step, ownRequest: v as Gate['ownRequest'] }, 'own requests')}>
            <option value="skip">Leave them out</option>
            <option value="manager">Ask their manager instead</option>
            <option value="allow">{words.allow}</option>
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
              <option value="fail">{words.fails}</option>
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
    </>
  );
}
