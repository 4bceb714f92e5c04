import { Popover as Parts } from 'radix-ui';
import type { ReactNode } from 'react';
import { keyboardIsElsewhere } from './keyboard';

/** Something small that opens beside what opens it; Escape and a click elsewhere close it, and the keyboard goes back. */
export function Popover({
  opener,
  label,
  open,
  onOpenChange,
  children,
}: {
  /** A button of the kit. */
  opener: ReactNode;
  label: string;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  children: ReactNode;
}) {
  return (
    <Parts.Root {...(open !== undefined && { open })} {...(onOpenChange && { onOpenChange })}>
      <Parts.Trigger asChild>{opener}</Parts.Trigger>
      <Parts.Portal>
        <Parts.Content
          aria-label={label}
          align="start"
          sideOffset={4}
          collisionPadding={8}
          onCloseAutoFocus={(e) => keyboardIsElsewhere() && e.preventDefault()}
          className="z-40 max-h-(--radix-popover-content-available-height) w-72 overflow-y-auto rounded border bg-sheet p-3 shadow-float"
        >
          {children}
        </Parts.Content>
      </Parts.Portal>
    </Parts.Root>
  );
}
