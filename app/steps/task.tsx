import type { Late, Place, Task, TaskAssignee } from '../../core/plans/index.ts';
import { AssigneeChoice } from '~/sheet/assignee-choice';
import { ListEditor } from '~/ui/list-editor';
import { DurationInput, Optional } from '~/sheet/duration-input';
import { Labelled } from '~/ui/field';
import { PassagesEditor } from '~/sheet/passages-editor';
import { PlaceSelect } from '~/sheet/place-select';
import { RemindersSetting } from '~/sheet/reminders-setting';
import { CorrectsSetting } from '~/sheet/corrects-setting';
import { SmallFields } from '~/sheet/small-fields';
import { UntilChosen } from '~/sheet/until-chosen';
import { useChosenKind } from '~/sheet/use-chosen-kind';
import { freshKey } from '~/ui/fresh-key';
import type { SettingsProps, StepLook } from './look';
import { Checkbox } from '~/ui/checkbox';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

/** Whether it goes to a team, as far as is known before. */
const mayBeTeam = (a: TaskAssignee | undefined, places: Place[]): boolean =>
  a !== undefined && ('team' in a || 'routed' in a || ('from' in a && places.some((p) => p.ref === a.from.ref && p.type === 'team')));

/** Who does a task, what it says, what is checked off and filled in, and when it is due. */
function TaskSettings({ step, places, onEdit }: SettingsProps<Task>) {
  const a = step.assignee;
  const stands = !step.due ? '' : 'by' in step.due ? 'by' : 'within';
  const when = useChosenKind(stands);
  return (
    <>
      <Labelled label="Who does it">
        {(ids) => (
          <AssigneeChoice
            {...ids}
            called="The person who does it"
            routed
            value={a}
            places={places}
            onChange={(assignee) => onEdit({ ...step, assignee, ...(!mayBeTeam(assignee, places) && { tellTeam: undefined }) }, 'who does it')}
          />
        )}
      </Labelled>
      {mayBeTeam(a, places) && (
        <label className="flex items-center gap-2">
          <Checkbox
            checked={step.tellTeam === true}
            onChecked={(on) => onEdit({ ...step, tellTeam: on ? true : undefined }, 'whether the team is told')}
          />
          Tell everyone in the team by mail when it arrives
        </label>
      )}
      <PassagesEditor
        label="Instructions"
        value={step.instructions}
        places={places}
        onChange={(instructions) => onEdit({ ...step, instructions }, 'the instructions')}
      />
      <fieldset>
        <legend className="mb-1 font-medium">Checklist</legend>
        <ListEditor
          rows={step.checklist}
          keyOf={(c) => c.id}
          nameOf={(c) => `“${c.words}”`}
          addLabel="Add a line"
          make={() => ({ id: freshKey('line'), words: '' })}
          onChange={(checklist) => onEdit({ ...step, checklist }, 'the checklist')}
        >
          {({ row, at, set }) => (
            <input
              className="input"
              aria-label={`Line ${at + 1} of the checklist`}
              maxLength={200}
              value={row.words}
              onChange={(e) => set({ ...row, words: e.target.value })}
            />
          )}
        </ListEditor>
      </fieldset>
      <CorrectsSetting
        legend="Whoever does it may correct"
        chosen={step.corrects ?? []}
        onChange={(corrects) => onEdit({ ...step, corrects: corrects.length > 0 ? corrects : undefined }, 'what may be corrected')}
      />
      <SmallFields label="Filled in by whoever does it" fields={step.fields} onChange={(fields) => onEdit({ ...step, fields }, 'its fields')} />
      <Labelled label="Due">
        {(ids) => (
          <div className="space-y-2">
            <Select
              {...ids}
              value={when.kind}
              onValue={(v) => {
                when.choose(v);
                if (v !== 'by') onEdit({ ...step, due: v === 'within' ? { within: 'P1D' } : undefined }, 'when it is due');
              }}
            >
              <option value="">Not said</option>
              <option value="within">After working time</option>
              <option value="by">By a date from the values</option>
            </Select>
            {when.kind === 'within' && step.due && 'within' in step.due && (
              <DurationInput
                label="Due after working time"
                iso={step.due.within}
                min={1}
                onChange={(within) => onEdit({ ...step, due: { within } }, 'when it is due')}
              />
            )}
            {when.kind === 'by' && (
              <PlaceSelect
                aria-label="Due by which date"
                places={places}
                types={['date', 'instant']}
                value={step.due && 'by' in step.due ? step.due.by.ref : undefined}
                onChange={(ref) => ref && onEdit({ ...step, due: { ...(step.due && 'by' in step.due && step.due), by: { ref } } }, 'when it is due')}
              />
            )}
            {when.kind === 'by' && step.due && 'by' in step.due && (
              <NumberField
                before="Working days before it"
                whole
                min={0}
                max={60}
                value={step.due.workingDaysBefore ?? 0}
                onValue={(n) => {
                  if (n === undefined || !step.due || !('by' in step.due)) return;
                  onEdit({ ...step, due: { by: step.due.by, ...(n > 0 && { workingDaysBefore: n }) } }, 'when it is due');
                }}
              />
            )}
            {when.waits && <UntilChosen stands={step.due !== undefined} />}
          </div>
        )}
      </Labelled>
      {(step.due || step.late) && <WhenLate step={step} places={places} onEdit={onEdit} />}
    </>
  );
}

/** What happens while it is due and not done. */
function WhenLate({ step, places, onEdit }: Pick<SettingsProps<Task>, 'step' | 'places' | 'onEdit'>) {
  const set = (late: Late) => onEdit({ ...step, late: late.reminders || late.raise ? late : undefined }, 'what happens when it is late');
  return (
    <>
      <RemindersSetting
        label="Remind whoever has it when it is late"
        help="By mail: the one who took it, else everyone in the team."
        after="Again after working time"
        value={step.late?.reminders}
        onChange={(reminders) => set({ ...step.late, reminders })}
      />
      <Optional
        label="Bring it before others when it stays late"
        value={step.late?.raise}
        start={{ after: 'P1D', how: 'tell' }}
        onChange={(raise) => set({ ...step.late, raise })}
      >
        {(r) => (
          <div className="space-y-2">
            <div className="grid grid-cols-[auto_minmax(0,1fr)] items-center gap-2">
              <span className="text-faint">late by</span>
              <DurationInput label="Late by working time" iso={r.after} min={0} onChange={(after) => set({ ...step.late, raise: { ...r, after } })} />
            </div>
            <Select aria-label="What then" value={r.how} onValue={(how) => set({ ...step.late, raise: { ...r, how: how as typeof r.how } })}>
              <option value="tell">They are told, the task stays where it is</option>
              <option value="handOver">The task is theirs, with what is filled in so far</option>
            </Select>
            <AssigneeChoice
              aria-label="Before whom"
              called="The person it is brought before"
              value={r.to}
              places={places}
              onChange={(to) => {
                if (!to || !('routed' in to)) set({ ...step.late, raise: { ...r, to } });
              }}
            />
          </div>
        )}
      </Optional>
    </>
  );
}

export const task: StepLook<Task> = { Settings: TaskSettings, shape: 'task' };
