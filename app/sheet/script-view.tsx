import { clsx } from 'clsx';
import { Plus } from 'lucide-react';
import { kindWords, type Finding, type ScriptLine } from '../../core/plans/index.ts';
import { Mark } from '~/ui/mark';
import type { SheetActs } from './sheet-step';

/** The plan as numbered sentences; each opens the same slip as its bar on the sheet. */
export function ScriptView({
  lines,
  findings,
  selected,
  acts,
}: {
  lines: ScriptLine[];
  findings: Finding[];
  selected: string | undefined;
  acts: SheetActs;
}) {
  if (lines.length === 0) {
    return (
      <div className="px-6 py-4">
        <button
          type="button"
          className="flex items-center gap-1 rounded border border-dashed border-faint px-2 py-1 text-sea hover:bg-sea-wash"
          onClick={() => acts.insert('start')}
        >
          <Plus size={13} aria-hidden /> First step of the plan
        </button>
      </div>
    );
  }
  return (
    <ol aria-label="Script of the plan" className="max-w-3xl px-4 py-3 md:px-6 print:max-w-none">
      {lines.map((l) =>
        'step' in l ? (
          <li key={l.step.id} style={{ paddingLeft: l.depth * 28 }} className="break-inside-avoid">
            <button
              type="button"
              data-script={l.step.id}
              aria-current={l.step.id === selected}
              onClick={() => acts.open(l.step.id)}
              onKeyDown={(e) => {
                if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
                  e.preventDefault();
                  const all = [...document.querySelectorAll<HTMLElement>('[data-script]')];
                  all[all.indexOf(e.currentTarget) + (e.key === 'ArrowDown' ? 1 : -1)]?.focus();
                }
                if (e.key === 'a' && !e.ctrlKey && !e.metaKey) acts.insert({ after: l.step.id });
                if (e.key === 'Delete') acts.remove(l.step.id);
              }}
              className={clsx(
                'grid w-full grid-cols-[56px_1fr] gap-x-3 rounded px-1 py-1 text-left hover:bg-sea-wash',
                l.step.id === selected && 'bg-sea-wash',
              )}
            >
              <span className="numbers pt-0.5 text-sm text-faint">{l.number}</span>
              <span>
                <span className="text-faint">{kindWords[l.step.kind].verb} · </span>
                <span className="font-medium">{/[.!?]$/.test(l.step.name) ? l.step.name : `${l.step.name}.`}</span> {l.sentence}
                {findings
                  .filter((f) => f.step === l.step.id)
                  .map((f, i) => (
                    <span key={i} className="mt-0.5 flex gap-1.5 text-sm text-faint print:hidden">
                      <Mark kind={f.severity === 'stops' ? 'failed' : 'lapsed'} size={13} /> {f.sentence}
                    </span>
                  ))}
              </span>
            </button>
          </li>
        ) : (
          <li key={`${l.of}.${l.branch}`} style={{ paddingLeft: l.depth * 28 }} className="mt-1 border-l border-transparent pl-1 text-sm text-faint">
            <span className="ml-[72px] italic">{l.head}</span>
            {l.empty && (
              <button
                type="button"
                className="ml-2 text-sea underline underline-offset-4 print:hidden"
                onClick={() => acts.insert({ into: l.of, branch: l.branch })}
              >
                first step here
              </button>
            )}
          </li>
        ),
      )}
    </ol>
  );
}
