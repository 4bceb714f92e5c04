import { Command } from 'cmdk';
import { kindWords, type StepKind } from '../../core/plans/index.ts';
import { Dialog } from '~/ui/dialog';

/** The menu of verbs; typing narrows it, also by what people call a step. */
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
    <Dialog quiet leaves open={open} title={`Insert a step ${where}`} onClose={onClose} className="w-[28rem]">
      <p className="px-3 pt-2 text-sm text-faint">Insert a step {where}</p>
      <Command label={`Insert a step ${where}`} filter={matches} className="flex min-h-0 flex-col">
        <Command.Input placeholder="Type a verb, or what you call it" className="w-full border-b bg-transparent px-3 py-2 outline-none" />
        <Command.List className="min-h-0 overflow-y-auto p-1.5">
          <Command.Empty className="p-2 text-faint">There is no such kind of step.</Command.Empty>
          {(Object.keys(kindWords) as StepKind[]).map((kind) => (
            <Command.Item
              key={kind}
              value={kindWords[kind].verb}
              keywords={[...kindWords[kind].alsoCalled, kindWords[kind].does]}
              onSelect={() => onPick(kind)}
              className="flex cursor-pointer items-baseline gap-3 rounded px-2 py-1 text-sm aria-selected:bg-sea-wash"
            >
              <span className="w-20 shrink-0 font-medium">{kindWords[kind].verb}</span>
              <span className="text-faint">{kindWords[kind].does}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Dialog>
  );
}

/** The verb itself first, then what people call it, then what it does; each by how its words begin. */
function matches(verb: string, typed: string, words: string[] = []): number {
  const sought = typed.trim().toLowerCase();
  if (sought === '') return 1;
  const begins = (text: string) =>
    text
      .toLowerCase()
      .split(/[\s,-]+/)
      .some((w) => w.startsWith(sought)) || text.toLowerCase().startsWith(sought);
  if (begins(verb)) return 1;
  const [does, ...called] = words.toReversed();
  if (called.some(begins)) return 0.6;
  return does !== undefined && begins(does) ? 0.2 : 0;
}
