import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Plus, Trash2 } from 'lucide-react';
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
        <ul className="space-y-1.5">
          {step.branches.map((b, i) => (
            <li key={b.id} className="flex gap-1">
              <input
                className="input"
                aria-label={`Name of branch ${i + 1}`}
                maxLength={120}
                value={b.name}
                onChange={(e) => set(step.branches.with(i, { ...b, name: e.target.value }))}
              />
              <Button weight="quiet" title={`Remove the branch “${b.name}” and its steps`} onClick={() => set(step.branches.toSpliced(i, 1))}>
                <Trash2 size={14} aria-hidden />
                <span className="sr-only">Remove the branch “{b.name}” and its steps</span>
              </Button>
            </li>
          ))}
        </ul>
        <Button
          className="mt-2"
          onClick={() =>
            set([
              ...step.branches,
              {
                id: freshKey('branch'),
                name: `Branch ${step.branches.length + 1}`,
                block: [],
              },
            ])
          }
        >
          <Plus size={13} aria-hidden /> Add a branch
        </Button>
      </fieldset>
    </>
  );
}

export const together: StepLook<Together> = { Settings: TogetherSettings, shape: 'holds' };
