import { Search } from 'lucide-react';
import type { RefObject } from 'react';
import type { Line, SheetFacts } from '../../core/plans/index.ts';

/** The steps whose number, name, sentence or party has these words. */
export function findSteps(lines: Line[], facts: SheetFacts, words: string): string[] {
  const sought = words.trim().toLowerCase();
  if (sought === '') return [];
  return lines.flatMap((l) => {
    if (l.is !== 'step') return [];
    const of = facts.steps.get(l.id);
    return [l.number, l.step.name, of?.sentence, of?.party].some((t) => t?.toLowerCase().includes(sought)) ? [l.id] : [];
  });
}

/** Finds a step: Enter goes to the next, Shift Enter to the one before, Escape back to the sheet. */
export function SheetFind({
  box,
  words,
  found,
  at,
  onWords,
  onGo,
  onLeave,
}: {
  box: RefObject<HTMLInputElement | null>;
  words: string;
  found: string[];
  /** Which of them is chosen, from 0; -1 for none. */
  at: number;
  onWords: (words: string) => void;
  onGo: (step: string) => void;
  onLeave: () => void;
}) {
  const go = (by: 1 | -1) => {
    const next = found[(at + by + found.length) % Math.max(1, found.length)];
    if (next !== undefined) onGo(next);
  };
  return (
    <div role="search" className="flex items-center gap-1.5">
      <Search size={14} aria-hidden className="text-faint" />
      <input
        ref={box}
        type="search"
        aria-label="Find a step"
        placeholder="Find a step (Ctrl F)"
        className="w-40 rounded border-b border-faint bg-transparent px-1 py-0.5 outline-none focus:border-sea"
        value={words}
        onChange={(e) => onWords(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault();
            go(e.shiftKey ? -1 : 1);
          }
          if (e.key === 'Escape') {
            e.preventDefault();
            onLeave();
          }
        }}
      />
      <span role="status" className="numbers text-xs text-faint">
        {words.trim() === '' ? '' : found.length === 0 ? 'none' : at < 0 ? `${found.length} found` : `${at + 1} of ${found.length}`}
      </span>
    </div>
  );
}
