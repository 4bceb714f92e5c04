import { clsx } from 'clsx';
import { X } from 'lucide-react';
import { Dialog as Parts, VisuallyHidden } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button } from './button';
import { keyboardIsElsewhere } from './keyboard';

/** Something to be looked at or chosen before anything else; it stands in the window however low that is. */
export function Dialog({
  open,
  title,
  quiet = false,
  leaves = false,
  className,
  onClose,
  children,
}: {
  open: boolean;
  title: string;
  /** The title is said and not shown. */
  quiet?: boolean;
  /** Whoever opened it decides where the keyboard goes afterwards; else it goes back to where it was. */
  leaves?: boolean;
  className?: string;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Parts.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Parts.Portal>
        <Parts.Overlay className="fixed inset-0 z-40 bg-ink/15" />
        <Parts.Content
          aria-describedby={undefined}
          className={clsx(
            'fixed top-[8vh] left-1/2 z-50 flex max-h-[84vh] w-[30rem] max-w-[94vw] -translate-x-1/2 flex-col rounded border bg-sheet shadow-float',
            className,
          )}
          onCloseAutoFocus={(e) => (leaves || keyboardIsElsewhere()) && e.preventDefault()}
        >
          {quiet ? (
            <VisuallyHidden.Root>
              <Parts.Title>{title}</Parts.Title>
            </VisuallyHidden.Root>
          ) : (
            <div className="flex items-center px-4 pt-3">
              <Parts.Title className="font-serif text-lg">{title}</Parts.Title>
              <Parts.Close asChild>
                <Button weight="quiet" className="ml-auto size-8 px-0!">
                  <X size={15} aria-hidden />
                  <span className="sr-only">Close (Esc)</span>
                </Button>
              </Parts.Close>
            </div>
          )}
          {children}
        </Parts.Content>
      </Parts.Portal>
    </Parts.Root>
  );
}
