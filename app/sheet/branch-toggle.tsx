import type { Block } from '../../core/plans/index.ts';
import { Checkbox } from '~/ui/checkbox';

/** Whether a branch has steps of its own; what happens without them is said. */
export function BranchToggle({
  label,
  without,
  block,
  onChange,
}: {
  label: string;
  without: string;
  block: Block | undefined;
  onChange: (block: Block | undefined) => void;
}) {
  return (
    <label className="flex gap-2">
      <Checkbox className="mt-0.5" checked={block !== undefined} onChecked={(on) => onChange(on ? [] : undefined)} />
      <span>
        {label}
        <span className="block text-sm text-faint">
          {block ? `${block.length} ${block.length === 1 ? 'step' : 'steps'}, in the lines below this step.` : without}
        </span>
      </span>
    </label>
  );
}
