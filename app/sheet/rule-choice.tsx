import type { GateRule } from '../../core/plans/index.ts';
import { NumberField } from '~/ui/number-field';
import { Select, type SelectProps } from '~/ui/select';

/** How many of those who are asked must approve. `of`: how many that can be at most; `sides`: they come from several. */
export function RuleChoice<R extends GateRule>({
  rule,
  of = 50,
  sides = false,
  onChange,
  countLabel = 'How many must approve',
  ...select
}: {
  rule: R;
  of?: number;
  sides?: boolean;
  onChange: (rule: R) => void;
  countLabel?: string;
} & Omit<SelectProps, 'children' | 'value' | 'onValue'>) {
  return (
    <div className="flex gap-2">
      <Select
        {...select}
        value={rule.rule}
        onValue={(v) => {
          const chosen = v as GateRule['rule'];
          onChange((chosen === 'atLeast' ? { rule: chosen, count: Math.min(2, of) } : { rule: chosen }) as R);
        }}
      >
        <option value="first">The first reply decides</option>
        <option value="any">One approval is enough</option>
        <option value="all">All must approve</option>
        <option value="atLeast">At least so many must approve</option>
        {sides && <option value="oneOfEach">One of each side must approve</option>}
      </Select>
      {rule.rule === 'atLeast' && (
        <NumberField
          aria-label={countLabel}
          min={1}
          max={of}
          value={rule.count}
          onValue={(count) => count !== undefined && onChange({ rule: 'atLeast', count } as R)}
        />
      )}
    </div>
  );
}
