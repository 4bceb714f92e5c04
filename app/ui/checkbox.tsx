import { clsx } from 'clsx';
import { Check } from 'lucide-react';
import { Checkbox as Parts } from 'radix-ui';
import { useHydrated, useKeptFocus, useTakenAlong } from './choices';

/** Yes or no, beside its words. Posted under its name while it is checked, also before scripts load. */
export function Checkbox({
  checked,
  onChecked,
  name,
  value = 'on',
  className,
  ...ids
}: {
  checked: boolean;
  onChecked: (checked: boolean) => void;
  name?: string;
  value?: string;
  disabled?: boolean;
  className?: string;
  tabIndex?: number;
  id?: string;
  'aria-label'?: string;
  'aria-invalid'?: true | undefined;
}) {
  const hydrated = useHydrated();
  const [native, box] = useKeptFocus<HTMLInputElement, HTMLButtonElement>(hydrated);
  useTakenAlong(native, (box) => box.checked !== checked && onChecked(box.checked));
  if (!hydrated)
    return (
      <input
        {...ids}
        ref={native}
        type="checkbox"
        name={name}
        value={value}
        checked={checked}
        className={clsx('size-4 accent-sea', className)}
        onChange={(e) => onChecked(e.target.checked)}
      />
    );
  return (
    <>
      <Parts.Root
        {...ids}
        ref={box}
        checked={checked}
        onCheckedChange={(next) => onChecked(next === true)}
        className={clsx(
          'inline-flex size-4 shrink-0 disabled:opacity-55 items-center justify-center rounded border border-faint bg-sheet aria-invalid:border-coral data-[state=checked]:border-sea data-[state=checked]:bg-sea',
          className,
        )}
      >
        <Parts.Indicator className="text-on-sea">
          <Check size={12} strokeWidth={3} aria-hidden />
        </Parts.Indicator>
      </Parts.Root>
      {name !== undefined && checked && <input type="hidden" name={name} value={value} />}
    </>
  );
}
