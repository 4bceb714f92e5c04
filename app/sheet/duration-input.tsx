import { useState } from 'react';
import { durationParts, type Span } from '../../core/calendar/index.ts';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';
import { Checkbox } from '~/ui/checkbox';

const units = { S: 's', M: 'min', H: 'h', D: 'd', W: 'w' } as const;
type Unit = keyof typeof units;

/** A duration as a number and a unit; days and weeks are working days where working time counts. */
export function DurationInput({
  label,
  iso,
  min = 0,
  onChange,
  id,
}: {
  label: string;
  iso: string;
  min?: number;
  onChange: (iso: string) => void;
  id?: string;
}) {
  const parts = durationParts(iso) ?? [0, 0, 0, 0, 0];
  const order: Unit[] = ['W', 'D', 'H', 'M', 'S'];
  const at = parts.findLastIndex((n) => n > 0);
  const perUnit = [10_080, 1440, 60, 1, 1 / 60];
  // Shown in the smallest unit it has; days are days of the calendar here, only the words differ.
  const total = parts.slice(0, at + 1).reduce((sum, n, i) => sum + n * perUnit[i]!, 0);
  const [unit, setUnit] = useState<Unit>(at < 0 ? 'M' : order[at]!);
  const shown = at < 0 ? 0 : Math.round((total / perUnit[order.indexOf(unit)]!) * 100) / 100;
  const write = (n: number, u: Unit) => onChange(u === 'D' || u === 'W' ? `P${n}${u}` : `PT${n}${u}`);
  return (
    <span className="grid grid-cols-[minmax(0,1fr)_auto]">
      <NumberField
        {...(id && { id })}
        width="w-full"
        aria-label={`${label}: number`}
        min={min}
        max={9999}
        value={shown}
        onValue={(n) => n !== undefined && write(n, unit)}
      />
      <Select
        className="w-16! shrink-0"
        aria-label={`${label}: unit`}
        value={unit}
        onValue={(v) => {
          const u = v as Unit;
          setUnit(u);
          write(Math.max(min, Math.round(shown)), u);
        }}
      >
        {order.toReversed().map((u) => (
          <option key={u} value={u}>
            {units[u]}
          </option>
        ))}
      </Select>
    </span>
  );
}

/** A span: a duration and which clock counts it. */
export function SpanInput({ label, span, onChange }: { label: string; span: Span; onChange: (span: Span) => void }) {
  return (
    <div className="grid grid-cols-2 gap-2">
      <DurationInput label={label} iso={span.length} min={1} onChange={(length) => onChange({ ...span, length })} />
      <Select aria-label={`${label}: counted in`} value={span.counted} onValue={(v) => onChange({ ...span, counted: v as Span['counted'] })}>
        <option value="working">working time</option>
        <option value="always">round the clock</option>
      </Select>
    </div>
  );
}

/** Something with a length that may be left out. */
export function Optional<T>({
  label,
  help,
  value,
  start,
  onChange,
  children,
}: {
  label: string;
  help?: string;
  value: T | undefined;
  start: T;
  onChange: (value: T | undefined) => void;
  children: (value: T) => React.ReactNode;
}) {
  return (
    <div>
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={value !== undefined} onChecked={(on) => onChange(on ? start : undefined)} />
        <span>
          {label}
          {help && <span className="block text-sm text-faint">{help}</span>}
        </span>
      </label>
      {value !== undefined && <div className="mt-1.5 pl-6">{children(value)}</div>}
    </div>
  );
}
