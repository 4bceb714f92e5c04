import { Command } from 'cmdk';
import { Dialog, VisuallyHidden } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { useFetcher, useNavigate } from 'react-router';
import type { loader } from '~/routes/find';

/** Find-anything: items, requests, drafts, by name or number. */
export function FindBox({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [q, setQ] = useState('');
  const { load, data, state } = useFetcher<typeof loader>();
  const navigate = useNavigate();
  // What an earlier text found is not what this one finds, and is not there to be gone to.
  const found = data?.q === q ? (data.anything ?? []) : [];
  const loadRef = useRef(load);
  useEffect(() => {
    if (!open) return;
    const wait = setTimeout(() => void loadRef.current(`/find?kind=anything&q=${encodeURIComponent(q)}`), 120);
    return () => clearTimeout(wait);
  }, [q, open]);
  const sections = [...new Set(found.map((f) => f.section))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          className="fixed top-16 left-1/2 z-50 w-[min(560px,94vw)] -translate-x-1/2 rounded border bg-sheet shadow-float"
          aria-describedby={undefined}
        >
          <VisuallyHidden.Root>
            <Dialog.Title>Find anything</Dialog.Title>
          </VisuallyHidden.Root>
          <Command shouldFilter={false} label="Find anything">
            <Command.Input
              value={q}
              onValueChange={setQ}
              placeholder="An item, or a request number such as R-1004"
              className="w-full border-b bg-transparent px-4 py-3 outline-none"
            />
            <Command.List className="max-h-96 overflow-y-auto p-2">
              <Command.Empty className="p-3 text-faint">
                {state === 'loading' || data?.q !== q ? 'Looking …' : 'Nothing is called that.'}
              </Command.Empty>
              {sections.map((s) => (
                <Command.Group
                  key={s}
                  heading={s}
                  className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-faint"
                >
                  {found
                    .filter((f) => f.section === s)
                    .map((f) => (
                      <Command.Item
                        key={f.to}
                        value={f.to}
                        onSelect={() => {
                          onOpenChange(false);
                          void navigate(f.to);
                        }}
                        className="flex cursor-pointer gap-3 rounded px-2 py-1.5 aria-selected:bg-sea-wash"
                      >
                        <span className="shrink-0 font-medium">{f.label}</span>
                        <span className="truncate text-faint">{f.detail}</span>
                      </Command.Item>
                    ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
