import { Command } from 'cmdk';
import { useEffect, useRef, useState } from 'react';
import { useFetcher, useLocation, useNavigate } from 'react-router';
import type { loader } from '~/routes/find';
import { Dialog } from './dialog';

/** Find-anything: requests by number or by what stands in them, items, people, policies, pages, acts, steps of the open plan. */
export function FindBox({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [q, setQ] = useState('');
  const { load, data, state } = useFetcher<typeof loader>();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const item = /^\/workshop\/items\/([0-9a-f-]{36})/.exec(pathname)?.[1];
  const at = item === undefined ? '' : `&at=${item}`;
  // What an earlier text found is not what this one finds, and is not there to be gone to.
  const found = data?.q === q ? (data.anything ?? []) : [];
  const loadRef = useRef(load);
  useEffect(() => {
    if (!open) return;
    const wait = setTimeout(() => void loadRef.current(`/find?kind=anything&q=${encodeURIComponent(q)}${at}`), 120);
    return () => clearTimeout(wait);
  }, [q, open, at]);
  const sections = [...new Set(found.map((f) => f.section))];
  return (
    <Dialog quiet open={open} title="Find anything" onClose={() => onOpenChange(false)} className="w-[35rem]">
      <Command shouldFilter={false} label="Find anything">
        <Command.Input
          value={q}
          onValueChange={setQ}
          placeholder="A request number, a serial number, an item, a person, a page, or an act"
          className="w-full border-b bg-transparent px-4 py-3 outline-none"
        />
        <Command.List className="max-h-96 overflow-y-auto p-2">
          <Command.Empty className="p-3 text-faint">{state === 'loading' || data?.q !== q ? 'Looking …' : 'Nothing is called that.'}</Command.Empty>
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
    </Dialog>
  );
}
