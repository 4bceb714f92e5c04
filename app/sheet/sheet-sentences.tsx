import { clsx } from 'clsx';
import { Plus } from 'lucide-react';
import { kindWords, type Finding, type Line, type SheetFacts } from '../../core/plans/index.ts';
import { StateMark } from '~/ui/state-mark';
import type { SheetActs } from './sheet-acts';
import { sizes } from './sheet-geometry';
import { Guides } from './sheet-line';

/** The plan written out: each line with its sentence, for reading and for print; each opens the same slip. */
export function SheetSentences({
  lines,
  facts,
  findings,
  cursor,
  acts,
}: {
  lines: Line[];
  facts: SheetFacts;
  findings: Map<string, Finding[]>;
  cursor: string | undefined;
  acts: SheetActs;
}) {
  return (
    <div className="min-h-0 grow overflow-auto print:overflow-visible">
      {lines.length === 0 && <p className="px-6 py-4 text-faint">The plan has no step yet. The sheet by names offers the first.</p>}
      <ol aria-label="The plan in sentences" className="max-w-4xl py-2 print:max-w-none">
        {lines.map((l) => (
          <li key={l.id} className="relative break-inside-avoid" style={{ paddingLeft: 14 + l.guides.length * sizes.indent }}>
            <Guides guides={l.guides} height={undefined} />
            {l.is === 'step' ? (
              <button
                type="button"
                data-sentence={l.id}
                aria-current={l.id === cursor}
                onClick={() => acts.open(l.id)}
                onKeyDown={(e) => {
                  if (e.key !== 'ArrowDown' && e.key !== 'ArrowUp') return;
                  e.preventDefault();
                  const all = [...document.querySelectorAll<HTMLElement>('[data-sentence]')];
                  all[all.indexOf(e.currentTarget) + (e.key === 'ArrowDown' ? 1 : -1)]?.focus();
                }}
                className={clsx('flex w-full gap-2 rounded px-1 py-1 text-left hover:bg-sea-wash', l.id === cursor && 'bg-sea-wash')}
              >
                <span className="numbers min-w-12 shrink-0 pt-0.5 text-sm text-faint">{l.number}</span>
                <span>
                  <span className="text-faint">{kindWords[l.step.kind].verb} · </span>
                  <span className="font-medium">{/[.!?]$/.test(l.step.name) ? l.step.name : `${l.step.name}.`}</span>{' '}
                  {facts.steps.get(l.id)?.sentence}
                  {(findings.get(l.id) ?? []).map((f, i) => (
                    <span key={i} className="mt-0.5 flex gap-1.5 text-sm text-faint print:hidden">
                      <StateMark kind={f.severity === 'stops' ? 'failed' : 'lapsed'} size={13} /> {f.sentence}
                    </span>
                  ))}
                </span>
              </button>
            ) : (
              <p className={clsx('flex gap-2 px-1 py-0.5 text-sm italic', l.aside ? 'text-coral' : 'text-faint')}>
                <span className="numbers min-w-12 shrink-0 not-italic text-faint">{l.number}</span>
                {facts.heads.get(l.id)}
                {l.holds === 0 && (
                  <button
                    type="button"
                    aria-label={`first step here, in “${facts.heads.get(l.id) ?? ''}”`}
                    className="flex items-center gap-1 rounded border border-dashed border-faint px-1.5 text-sea not-italic hover:bg-sea-wash print:hidden"
                    onClick={() => acts.insert({ into: l.of, branch: l.branch })}
                  >
                    <Plus size={12} aria-hidden /> first step here
                  </button>
                )}
              </p>
            )}
          </li>
        ))}
      </ol>
    </div>
  );
}
