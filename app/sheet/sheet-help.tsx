import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { Button } from '~/ui/button';
import { keys } from './sheet-keys';

/** The keys of the sheet. */
export function SheetHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/15" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[30rem] max-w-[94vw] -translate-x-1/2 overflow-y-auto rounded border bg-sheet p-4 shadow-float"
        >
          <div className="flex items-center">
            <Dialog.Title className="font-serif text-lg">Keys of the plan sheet</Dialog.Title>
            <Dialog.Close asChild>
              <Button weight="quiet" className="ml-auto size-8 px-0!">
                <X size={15} aria-hidden />
                <span className="sr-only">Close (Esc)</span>
              </Button>
            </Dialog.Close>
          </div>
          <dl className="mt-2 grid grid-cols-[max-content_1fr] gap-x-5 gap-y-1 text-sm">
            {keys.map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="numbers">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
