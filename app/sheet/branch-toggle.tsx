import type { Block } from '../../core/plans/index.ts';

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
      <input
        type="checkbox"
        className="mt-0.5 size-4 accent-sea"
        checked={block !== undefined}
        onChange={(e) => onChange(e.target.checked ? [] : undefined)}
      />
      <span>
        {label}
        <span className="block text-sm text-faint">
          {block ? `${block.length} ${block.length === 1 ? 'step' : 'steps'}, in the lines below this step.` : without}
        </span>
      </span>
    </label>
  );
}
