import { clsx } from 'clsx';
import { Command } from 'cmdk';
import { Check, ChevronDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useId, useState } from 'react';
import { choicesIn, grouped, opener, useHydrated } from './choices';
import { Select, type SelectProps } from './select';

/** One of many things, found by typing a part of its words. Before scripts load it is a plain list. */
export function Combobox(given: SelectProps) {
  const { children, value = '', onValue, className, name, ...ids } = given;
  const hydrated = useHydrated();
  const [open, setOpen] = useState(false);
  const list = useId();
  if (!hydrated) return <Select {...given} />;
  const choices = choicesIn(children);
  const chosen = choices.find((c) => c.value === value);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      {name !== undefined && <input type="hidden" name={name} value={value} />}
      <Popover.Trigger asChild>
        <button
          {...ids}
          type="button"
          role="combobox"
          aria-expanded={open}
          aria-controls={list}
          aria-haspopup="listbox"
          className={opener(value, className)}
          onKeyDown={(e) => {
            if (e.key !== 'ArrowDown' && e.key !== 'ArrowUp') return;
            e.preventDefault();
            setOpen(true);
          }}
        >
          <span className="truncate">{chosen?.label ?? ''}</span>
          <ChevronDown size={14} aria-hidden className="shrink-0 text-faint" />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          collisionPadding={8}
          className="z-50 flex max-h-[min(24rem,var(--radix-popover-content-available-height))] w-(--radix-popover-trigger-width) min-w-64 flex-col rounded border bg-sheet shadow-float"
        >
          <Command label={ids['aria-label'] ?? 'Choices'} defaultValue={chosen ? keyOf(chosen) : ''} className="flex min-h-0 flex-col">
            {/* However few there are: what is typed in is what hears the keys. */}
            <Command.Input placeholder="Type a part of it" className="w-full border-b bg-transparent px-3 py-1.5 outline-none" />
            <Command.List id={list} className="min-h-0 overflow-y-auto p-1">
              <Command.Empty className="p-2 text-sm text-faint">Nothing has these words.</Command.Empty>
              {grouped(choices).map(({ group, choices: some }) => (
                <Command.Group
                  key={group ?? ''}
                  heading={group}
                  className="**:[[cmdk-group-heading]]:px-2 **:[[cmdk-group-heading]]:pt-2 **:[[cmdk-group-heading]]:pb-0.5 **:[[cmdk-group-heading]]:text-xs **:[[cmdk-group-heading]]:text-faint"
                >
                  {some.map((c) => (
                    <Command.Item
                      key={c.value}
                      value={keyOf(c)}
                      keywords={[c.label, c.group ?? '']}
                      onSelect={() => {
                        onValue?.(c.value);
                        setOpen(false);
                      }}
                      className={clsx(
                        'flex cursor-pointer items-center justify-between gap-3 rounded px-2 py-1 aria-selected:bg-sea-wash',
                        c.value === '' && 'text-faint',
                      )}
                    >
                      {c.label}
                      {c.value === value && <Check size={13} aria-hidden className="shrink-0 text-sea" />}
                    </Command.Item>
                  ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** What tells choices apart: two may have the same words. */
const keyOf = (c: { value: string; label: string }): string => `${c.label} ${c.value}`;
