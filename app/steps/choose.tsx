import { BranchToggle } from '~/sheet/branch-toggle';
import { ListEditor } from '~/ui/list-editor';
import type { Choose } from '../../core/plans/index.ts';
import { ConditionEditor } from '~/sheet/condition-editor';
import { freshKey } from '~/ui/fresh-key';
import type { SettingsProps, StepLook } from './look';
import { NumberField } from '~/ui/number-field';

/** The cases, tried from the top; the first whose condition holds is taken. */
function ChooseSettings({ step, places, onEdit }: SettingsProps<Choose>) {
  return (
    <>
      <ListEditor
        rows={step.cases}
        keyOf={(c) => c.id}
        nameOf={(c) => `the case “${c.name}” and its steps`}
        addLabel="Add a case"
        make={() => ({ id: freshKey('case'), name: `Case ${step.cases.length + 1}`, block: [] })}
        onChange={(cases, what = 'the cases') => onEdit({ ...step, cases }, what)}
        ruled
      >
        {({ row: c, at, set }) => (
          <>
            <input
              className="input mb-2 font-medium"
              aria-label={`Name of case ${at + 1}`}
              value={c.name}
              maxLength={120}
              onChange={(e) => set({ ...c, name: e.target.value }, 'the name of a case')}
            />
            <div className="mb-2 text-faint">
              <NumberField
                before="How often, for the time analysis"
                after="%"
                placeholder="–"
                optional
                min={0}
                max={100}
                value={c.share}
                onValue={(share) => set({ ...c, share }, 'how often a case is taken')}
              />
            </div>
            <ConditionEditor
              label={`Case ${at + 1}`}
              places={places}
              value={c.when}
              onChange={(when) => set({ ...c, when }, 'the condition of a case')}
            />
          </>
        )}
      </ListEditor>
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
