import { RadioGroup as Parts } from 'radix-ui';
import { useRef } from 'react';
import { useHydrated, useTakenAlong } from './choices';

/** One of a few, all in sight; arrows go from one to the next. Posted under its name, also before scripts load. */
export function RadioGroup({
  value,
  options,
  name,
  onValue,
  ...ids
}: {
  /** Empty while none is chosen. */
  value: string;
  options: { value: string; label: string }[];
  name?: string;
  onValue: (value: string) => void;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
}) {
  const hydrated = useHydrated();
  const native = useRef<HTMLSpanElement>(null);
  useTakenAlong(native, (group) => {
    const chosen = group.querySelector<HTMLInputElement>('input:checked')?.value;
    if (chosen !== undefined && chosen !== value) onValue(chosen);
  });
  if (!hydrated)
    return (
      <span {...ids} ref={native} role="radiogroup" className="flex flex-wrap gap-x-5 gap-y-1">
        {options.map((o) => (
          <label key={o.value} className="flex items-center gap-1.5">
            <input
              type="radio"
              name={name}
              value={o.value}
              checked={value === o.value}
              className="size-4 accent-sea"
              onChange={() => onValue(o.value)}
            />
            {o.label}
          </label>
        ))}
      </span>
    );
  return (
    <Parts.Root {...ids} value={value} onValueChange={onValue} className="flex flex-wrap gap-x-5 gap-y-1">
      {name && <input type="hidden" name={name} value={value} />}
      {options.map((o) => (
        <label key={o.value} className="flex items-center gap-1.5">
          <Parts.Item
            value={o.value}
            className="inline-flex size-4 items-center justify-center rounded-full border border-faint bg-sheet data-[state=checked]:border-sea"
          >
            <Parts.Indicator className="size-2 rounded-full bg-sea" />
          </Parts.Item>
          {o.label}
        </label>
      ))}
    </Parts.Root>
  );
}
