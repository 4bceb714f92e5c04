import { Command } from 'cmdk';
import { Dialog, VisuallyHidden } from 'radix-ui';
import { kindWords, type StepKind } from '../../core/plans/index.ts';

/** The small menu of verbs; typing narrows it. */
export function InsertMenu({
  open,
  where,
  onClose,
  onPick,
}: {
  open: boolean;
  where: string;
  onClose: () => void;
  onPick: (kind: StepKind) => void;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/15" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-40 left-1/2 z-50 w-96 max-w-[94vw] -translate-x-1/2 rounded border bg-sheet shadow-float"
          onCloseAutoFocus={(e) => e.preventDefault()}
        >
          <VisuallyHidden.Root>
            <Dialog.Title>Insert a step {where}</Dialog.Title>
          </VisuallyHidden.Root>
          <p className="px-3 pt-2 text-sm text-faint">Insert a step {where}</p>
          <Command label={`Insert a step ${where}`}>
            <Command.Input placeholder="Type a verb" className="w-full border-b bg-transparent px-3 py-2 outline-none" />
            <Command.List className="p-1.5">
              <Command.Empty className="p-2 text-faint">There is no such kind of step.</Command.Empty>
              {(Object.keys(kindWords) as StepKind[]).map((kind) => (
                <Command.Item
                  key={kind}
                  value={`${kindWords[kind].verb} ${kindWords[kind].does}`}
                  onSelect={() => onPick(kind)}
                  className="flex cursor-pointer items-baseline gap-3 rounded px-2 py-1.5 aria-selected:bg-sea-wash"
                >
                  <span className="w-20 shrink-0 font-medium">{kindWords[kind].verb}</span>
                  <span className="text-faint">{kindWords[kind].does}</span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
