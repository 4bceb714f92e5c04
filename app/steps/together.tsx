import { ListEditor } from '~/ui/list-editor';
import { Labelled } from '~/ui/field';
import type { Together } from '../../core/plans/index.ts';
import { freshKey } from '~/ui/fresh-key';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

function TogetherSettings({ step, onEdit }: SettingsProps<Together>) {
  const set = (branches: Together['branches']) => onEdit({ ...step, branches }, 'the branches');
  return (
    <>
      <Labelled label="Goes on">
        {(ids) => (
          <Select {...ids} value={step.join} onValue={(v) => onEdit({ ...step, join: v as Together['join'] }, 'how they join')}>
            <option value="all">When all branches are done</option>
            <option value="first">When the first is done; the others are withdrawn</option>
          </Select>
        )}
      </Labelled>
      <fieldset>
        <legend className="mb-1 font-medium">Branches</legend>
        <ListEditor
          rows={step.branches}
          keyOf={(b) => b.id}
          nameOf={(b) => `the branch “${b.name}” and its steps`}
          addLabel="Add a branch"
          make={() => ({ id: freshKey('branch'), name: `Branch ${step.branches.length + 1}`, block: [] })}
          onChange={set}
        >
          {({ row, at, set: change }) => (
            <input
              className="input"
              aria-label={`Name of branch ${at + 1}`}
              maxLength={120}
              value={row.name}
              onChange={(e) => change({ ...row, name: e.target.value })}
            />
          )}
        </ListEditor>
      </fieldset>
    </>
  );
}

export const together: StepLook<Together> = { Settings: TogetherSettings, shape: 'holds' };
