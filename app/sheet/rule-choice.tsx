import type { GateRule } from '../../core/plans/index.ts';
import { NumberField } from '~/ui/number-field';
import { Select, type SelectProps } from '~/ui/select';

/** How many of those who are asked must approve. `of`: how many that can be at most. */
export function RuleChoice({
  rule,
  of = 50,
  onChange,
  countLabel = 'How many must approve',
  ...select
}: {
  rule: GateRule;
  of?: number;
  onChange: (rule: GateRule) => void;
  countLabel?: string;
} & Omit<SelectProps, 'children' | 'value' | 'onValue'>) {
  return (
    <div className="flex gap-2">
      <Select
        {...select}
        value={rule.rule}
        onValue={(v) => {
          const chosen = v as GateRule['rule'];
          onChange(chosen === 'atLeast' ? { rule: chosen, count: Math.min(2, of) } : { rule: chosen });
        }}
      >
        <option value="first">The first reply decides</option>
        <option value="any">One approval is enough</option>
        <option value="all">All must approve</option>
        <option value="atLeast">At least so many must approve</option>
      </Select>
      {rule.rule === 'atLeast' && (
        <NumberField
          aria-label={countLabel}
          min={1}
          max={of}
          value={rule.count}
          onValue={(count) => count !== undefined && onChange({ rule: 'atLeast', count })}
        />
      )}
    </div>
  );
}
