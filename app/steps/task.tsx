import type { Assignee, Task } from '../../core/plans/index.ts';
import { ListEditor } from '~/ui/list-editor';
import { DurationInput } from '~/sheet/duration-input';
import { Labelled } from '~/ui/field';
import { PassagesEditor } from '~/sheet/passages-editor';
import { Picker } from '~/ui/picker';
import { PlaceSelect } from '~/sheet/place-select';
import { SmallFields } from '~/sheet/small-fields';
import { TeamSelect } from '~/sheet/team-select';
import { UntilChosen } from '~/sheet/until-chosen';
import { useChosenKind } from '~/sheet/use-chosen-kind';
import { freshKey } from '~/ui/fresh-key';
import { useEditor } from '~/sheet/draft-editor';
import type { SettingsProps, StepLook } from './look';
import { Checkbox } from '~/ui/checkbox';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

/** Who does a task, what it says, what is checked off and filled in, and when it is due. */
function TaskSettings({ step, places, onEdit }: SettingsProps<Task>) {
  const { catalogue, learn } = useEditor();
  const a = step.assignee;
  const how = !a ? '' : 'team' in a ? 'team' : 'from' in a ? 'from' : 'person';
  const assign = (assignee: Assignee | undefined) => onEdit({ ...step, assignee }, 'who does it');
  const who = useChosenKind(how);
  const begin = (kind: string) => {
    who.choose(kind);
    if (kind !== 'team') assign(kind === 'from' ? { from: { ref: 'request.requester' } } : undefined);
  };
  const stands = !step.due ? '' : 'by' in step.due ? 'by' : 'within';
  const when = useChosenKind(stands);
  return (
    <>
      <Labelled label="Who does it">
        {(ids) => (
          <div className="space-y-2">
            <Select {...ids} value={who.kind} onValue={(v) => begin(v)}>
              <option value="">One named person, or choose …</option>
              <option value="team">A team</option>
              <option value="from">A person or a team from the values</option>
              {how === 'person' && <option value="person">One named person</option>}
            </Select>
            {who.kind === 'team' && <TeamSelect value={a && 'team' in a ? a.team : ''} onTeam={(team) => team && assign({ team })} />}
            {who.waits && <UntilChosen stands={a !== undefined} />}
            {who.kind === 'from' && a && 'from' in a && (
              <PlaceSelect
                aria-label="Which person or team"
                places={places}
                types={['person', 'team']}
                value={a.from.ref}
                onChange={(ref) => ref && assign({ from: { ref } })}
              />
            )}
            {(who.kind === '' || who.kind === 'person') && (
              <Picker
                aria-label="The person who does it"
                kind="person"
                chosen={a && 'person' in a ? { id: a.person.person, name: catalogue.people[a.person.person]?.name ?? '' } : undefined}
                onChoose={(c) => {
                  if (c) learn(c.id, c.name);
                  assign(c ? { person: { person: c.id } } : undefined);
                }}
              />
            )}
          </div>
        )}
      </Labelled>
      {a && !('person' in a) && (
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
    </>
  );
}

export const task: StepLook<Task> = { Settings: TaskSettings, shape: 'task' };
