import { Tabs as Parts } from 'radix-ui';
import type { ReactNode } from 'react';

/** Several faces of one thing, one at a time. Arrows go from one to the next; which one shows belongs to the address of the page. */
export function Tabs<Id extends string>({
  label,
  at,
  onAt,
  faces,
  children,
}: {
  label: string;
  at: Id;
  onAt: (at: Id) => void;
  faces: Record<Id, string>;
  /** What the present face shows. */
  children: ReactNode;
}) {
  return (
    <Parts.Root value={at} onValueChange={(next) => onAt(next as Id)}>
      <Parts.List aria-label={label} className="flex gap-5 border-b">
        {(Object.entries(faces) as [Id, string][]).map(([id, words]) => (
          <Parts.Trigger
            key={id}
            value={id}
            className="-mb-px border-b-2 border-transparent py-1.5 text-faint hover:text-sea data-[state=active]:border-sea data-[state=active]:font-medium data-[state=active]:text-ink"
          >
            {words}
          </Parts.Trigger>
        ))}
      </Parts.List>
      <Parts.Content value={at} className="pt-3">
        {children}
      </Parts.Content>
    </Parts.Root>
  );
}
