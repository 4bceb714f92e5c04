import { clsx } from 'clsx';
import { Check } from 'lucide-react';
import { DropdownMenu as Parts } from 'radix-ui';
import type { ReactNode } from 'react';
import { keyboardIsElsewhere } from './keyboard';

const line = 'flex cursor-pointer items-center gap-2 rounded px-2 py-1 text-sm outline-none data-highlighted:bg-sea-wash data-disabled:opacity-55';

/** Acts and choices that open beside a button; arrows and letters go through them. */
export function Menu({
  opener,
  label,
  onClosed,
  children,
}: {
  opener: ReactNode;
  label: string;
  /** Once it is closed; true where the keyboard goes elsewhere than back to what opened it. */
  onClosed?: () => boolean;
  children: ReactNode;
}) {
  return (
    <Parts.Root modal={false}>
      <Parts.Trigger asChild>{opener}</Parts.Trigger>
      <Parts.Portal>
        <Parts.Content
          aria-label={label}
          align="start"
          onCloseAutoFocus={(e) => {
            if (onClosed?.() === true || keyboardIsElsewhere()) e.preventDefault();
          }}
          sideOffset={4}
          collisionPadding={8}
          className="z-40 max-h-(--radix-dropdown-menu-content-available-height) min-w-44 overflow-y-auto rounded border bg-sheet p-1 shadow-float"
        >
          {children}
        </Parts.Content>
      </Parts.Portal>
    </Parts.Root>
  );
}

export function MenuAct({ onSelect, destructive = false, children }: { onSelect: () => void; destructive?: boolean; children: ReactNode }) {
  return (
    <Parts.Item className={clsx(line, destructive && 'text-coral')} onSelect={onSelect}>
      {children}
    </Parts.Item>
  );
}

/** Something that is on or off; the menu stays open for the next. */
export function MenuCheck({ checked, onChecked, children }: { checked: boolean; onChecked: (on: boolean) => void; children: ReactNode }) {
  return (
    <Parts.CheckboxItem className={line} checked={checked} onCheckedChange={onChecked} onSelect={(e) => e.preventDefault()}>
      <span className="flex size-3.5 items-center justify-center">
        <Parts.ItemIndicator>
          <Check size={13} aria-hidden className="text-sea" />
        </Parts.ItemIndicator>
      </span>
      {children}
    </Parts.CheckboxItem>
  );
}
