import { clsx } from 'clsx';
import { Check, ChevronDown } from 'lucide-react';
import { Select as Parts } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { choicesIn, grouped, opener, useHydrated, useKeptFocus, useTakenAlong } from './choices';

export interface SelectProps {
  /** Options and groups of options, as HTML writes them. One without a value is no choice, and says what to do. */
  children: ReactNode;
  value?: string;
  defaultValue?: string;
  onValue?: (value: string) => void;
  /** Posted under this name, also before scripts load. */
  name?: string;
  className?: string;
  id?: string;
  required?: boolean;
  disabled?: boolean;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
  'aria-required'?: boolean | undefined;
}

/** No choice has an empty key. */
const keyOf = (value: string): string => (value === '' ? ' ' : value);

/** One of a few things, chosen from a list; letters jump to those that begin with them. */
export function Select({ children, value, defaultValue = '', onValue, name, className, required, ...ids }: SelectProps) {
  const hydrated = useHydrated();
  const [native, trigger] = useKeptFocus<HTMLSelectElement, HTMLButtonElement>(hydrated);
  const [own, setOwn] = useState(defaultValue);
  const choices = choicesIn(children);
  // As HTML has it: where nothing says otherwise, the first is chosen.
  const shown = value ?? (choices.some((c) => c.value === own) ? own : (choices[0]?.value ?? ''));
  const choose = (next: string) => {
    setOwn(next);
    onValue?.(next);
  };
  useTakenAlong(native, (list) => list.value !== shown && choose(list.value));
  if (!hydrated)
    return (
      <select
        {...ids}
        ref={native}
        name={name}
        required={required}
        className={clsx('input', className)}
        value={shown}
        onChange={(e) => choose(e.target.value)}
      >
        {children}
      </select>
    );
  const chosen = choices.find((c) => c.value === shown);
  return (
    <>
      <Parts.Root value={keyOf(shown)} onValueChange={(key) => choose(key === ' ' ? '' : key)}>
        <Parts.Trigger ref={trigger} {...ids} className={opener(shown, className)}>
          <span className="truncate">
            <Parts.Value>{chosen?.label ?? ''}</Parts.Value>
          </span>
          <Parts.Icon className="shrink-0 text-faint">
            <ChevronDown size={14} />
          </Parts.Icon>
        </Parts.Trigger>
        <Parts.Portal>
          <Parts.Content
            position="popper"
            sideOffset={2}
            collisionPadding={8}
            className="z-50 max-h-(--radix-select-content-available-height) max-w-[94vw] min-w-(--radix-select-trigger-width) overflow-hidden rounded border bg-sheet shadow-float"
          >
            <Parts.Viewport className="p-1">
              {grouped(choices).map(({ group, choices: some }) => (
                <Parts.Group key={group ?? ''}>
                  {group !== undefined && <Parts.Label className="px-2 pt-2 pb-0.5 text-xs text-faint">{group}</Parts.Label>}
                  {some.map((c) => (
                    <Parts.Item
                      key={c.value}
                      value={keyOf(c.value)}
                      className={clsx(
                        'flex cursor-pointer items-center justify-between gap-3 rounded px-2 py-1 outline-none data-highlighted:bg-sea-wash',
                        c.value === '' && 'text-faint',
                      )}
                    >
                      <Parts.ItemText>{c.label}</Parts.ItemText>
                      <Parts.ItemIndicator>
                        <Check size={13} aria-hidden className="text-sea" />
                      </Parts.ItemIndicator>
                    </Parts.Item>
                  ))}
                </Parts.Group>
              ))}
            </Parts.Viewport>
          </Parts.Content>
        </Parts.Portal>
      </Parts.Root>
      {name !== undefined && <input type="hidden" name={name} value={shown} />}
    </>
  );
}
