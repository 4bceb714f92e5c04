import type { AudienceLine } from '../../core/items/index.ts';
import { useEditor, useStated } from '~/sheet/draft-editor';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { Picker } from '~/ui/picker';
import { Select } from '~/ui/select';

/** Who may ask for an item: everyone, or whoever one of some lines is true of. */
export function AudienceEditor() {
  const { draft, change } = useEditor();
  const { audience } = draft;
  const set = (next: AudienceLine[] | undefined) => change({ ...draft, audience: next }, 'Change who may ask');
  return (
    <fieldset className="border-t pt-4">
      <Labelled label="Who may ask" help="Others do not find it at the Counter.">
        {(ids) => (
          <Select {...ids} value={audience ? 'some' : 'everyone'} onValue={(v) => set(v === 'some' ? (audience ?? [{}]) : undefined)}>
            <option value="everyone">Everyone</option>
            <option value="some">Only these</option>
          </Select>
        )}
      </Labelled>
      {audience && (
        <div className="mt-3">
          <ListEditor
            rows={audience}
            keyOf={(_, at) => at}
            nameOf={(_, at) => `line ${at + 1} of who may ask`}
            addLabel="Add others"
            make={(): AudienceLine => ({})}
            onChange={set}
            ruled
          >
            {({ row, at, set: setLine }) => <Line line={row} at={at} onChange={setLine} />}
          </ListEditor>
        </div>
      )}
    </fieldset>
  );
}

/** Those of whom all that is stated here is true. */
function Line({ line, at, onChange }: { line: AudienceLine; at: number; onChange: (line: AudienceLine) => void }) {
  const { nameOf, learn } = useStated();
  const label = (what: string) => `Line ${at + 1}: ${what}`;
  const called = (kind: 'location' | 'group' | 'person', id: string) => ({
    id,
    name: nameOf(kind, id) ?? 'somebody or something that is not known any more',
  });
  return (
    <div role="group" aria-label={label('who may ask')} className="grid min-w-0 grow grid-cols-[6rem_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5">
      <span className="text-faint">department</span>
      <Picker
        aria-label={label('department')}
        kind="department"
        chosen={line.department === undefined ? undefined : { id: line.department, name: line.department }}
        onChoose={(c) => onChange({ ...line, department: c?.id })}
      />
      <span className="text-faint">job</span>
      <Picker
        aria-label={label('job')}
        kind="job"
        chosen={line.job === undefined ? undefined : { id: line.job, name: line.job }}
        onChoose={(c) => onChange({ ...line, job: c?.id })}
      />
      <span className="text-faint">place</span>
      <Picker
        aria-label={label('place')}
        kind="location"
        chosen={line.location && called('location', line.location.location)}
        onChoose={(c) => {
          if (c) learn(c.id, c.name, 'location');
          onChange({ ...line, location: c && { location: c.id } });
        }}
      />
      <span className="text-faint">group</span>
      <Picker
        aria-label={label('group')}
        kind="group"
        chosen={line.group && called('group', line.group.group)}
        onChoose={(c) => {
          if (c) learn(c.id, c.name, 'group');
          onChange({ ...line, group: c && { group: c.id } });
        }}
      />
      <span className="text-faint">person</span>
      <Picker
        aria-label={label('person')}
        kind="person"
        chosen={line.person && called('person', line.person.person)}
        onChoose={(c) => {
          if (c) learn(c.id, c.name);
          onChange({ ...line, person: c && { person: c.id } });
        }}
      />
    </div>
  );
}
