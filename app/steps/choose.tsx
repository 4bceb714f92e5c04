import { BranchToggle } from '~/sheet/branch-toggle';
import { Button } from '~/ui/button';
import type { Choose } from '../../core/plans/index.ts';
import { ConditionEditor } from '~/sheet/condition-editor';
import { Plus, Trash2 } from 'lucide-react';
import { freshKey } from '~/ui/fresh-key';
import type { SettingsProps, StepLook } from './look';
import { NumberField } from '~/ui/number-field';

/** The cases, tried from the top; the first whose condition holds is taken. */
function ChooseSettings({ step, places, onEdit }: SettingsProps<Choose>) {
  const set = (cases: Choose['cases'], what: string) => onEdit({ ...step, cases }, what);
  return (
    <>
      <ol className="space-y-4">
        {step.cases.map((c, i) => (
          <li key={c.id} className="border-l-2 border-sea pl-3">
            <div className="mb-2 flex gap-1">
              <input
                className="input font-medium"
                aria-label={`Name of case ${i + 1}`}
                value={c.name}
                maxLength={120}
                onChange={(e) => set(step.cases.with(i, { ...c, name: e.target.value }), 'the name of a case')}
              />
              <Button
                weight="quiet"
                title={`Remove the case “${c.name}” and its steps`}
                onClick={() => set(step.cases.toSpliced(i, 1), `the case “${c.name}”`)}
              >
                <Trash2 size={14} aria-hidden />
                <span className="sr-only">Remove the case “{c.name}” and its steps</span>
              </Button>
            </div>
            <div className="mb-2 text-faint">
              <NumberField
                before="How often, for the time analysis"
                after="%"
                placeholder="–"
                optional
                min={0}
                max={100}
                value={c.share}
                onValue={(share) => set(step.cases.with(i, { ...c, share }), 'how often a case is taken')}
              />
            </div>
            <ConditionEditor
              label={`Case ${i + 1}`}
              places={places}
              value={c.when}
              onChange={(when) => set(step.cases.with(i, { ...c, when }), 'the condition of a case')}
            />
          </li>
        ))}
      </ol>
      <Button onClick={() => set([...step.cases, { id: freshKey('case'), name: `Case ${step.cases.length + 1}`, block: [] }], 'the cases')}>
        <Plus size={13} aria-hidden /> Add a case
      </Button>
      <BranchToggle
        label="Steps of its own otherwise"
        without="When no case holds, it goes on with the next step."
        block={step.otherwise}
        onChange={(otherwise) => onEdit({ ...step, otherwise }, 'what happens otherwise')}
      />
    </>
  );
}

export const choose: StepLook<Choose> = { Settings: ChooseSettings, shape: 'holds' };
