import { clsx } from 'clsx';
import { useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import {
  applyEdit,
  findStep,
  insertStep,
  newStep,
  outlineOf,
  replaceStep,
  type Finding,
  type Position,
  type Step,
  type StepKind,
} from '../../../core/plans/index.ts';
import { isOfAsk } from '~/ask/finding-place';
import { useEditor } from '~/sheet/draft-editor';
import { FindingLine } from '~/sheet/finding-line';
import { InsertMenu } from '~/sheet/insert-menu';
import { PlanHead, type Density } from '~/sheet/plan-head';
import { PlanSheet } from '~/sheet/plan-sheet';
import { findSteps, SheetFind } from '~/sheet/sheet-find';
import { SheetHelp } from '~/sheet/sheet-help';
import { SheetOverview } from '~/sheet/sheet-overview';
import { SheetSentences } from '~/sheet/sheet-sentences';
import { StepSlip } from '~/sheet/step-slip';
import { AgainstHead } from '~/sheet/against-head';
import { uncompared, useAgainst } from '~/sheet/use-against';
import { useChosen } from '~/sheet/use-chosen';
import { useSheetActs } from '~/sheet/use-sheet-acts';
import { Button } from '~/ui/button';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

/** The leaf Plan: the plan sheet, the slip of the chosen step, and what the check finds. */
export default function Plan() {
  const editor = useEditor();
  const { draft, change, studied, findings, undo } = editor;
  const { plan } = draft;
  const { facts } = studied;
  const [search, setSearch] = useSearchParams();
  const view = search.get('view');
  const density: Density = view === 'sentences' || view === 'overview' ? view : 'names';
  const lines = useMemo(() => outlineOf(plan), [plan]);
  const chosen = useChosen(plan, lines);
  const { cursor, run } = chosen;
  const [inserting, setInserting] = useState<Position>();
  const [help, setHelp] = useState(false);
  const [sought, setSought] = useState('');
  const finder = useRef<HTMLInputElement>(null);
  const found = useMemo(() => findSteps(lines, facts, sought), [lines, facts, sought]);
  const matched = useMemo(() => new Set(found), [found]);
  const byStep = useMemo(() => {
    const map = new Map<string, Finding[]>();
    for (const f of findings) if (f.step) map.set(f.step, [...(map.get(f.step) ?? []), f]);
    return map;
  }, [findings]);
  const against = useAgainst();
  const step = cursor === undefined ? undefined : findStep(plan, cursor);

  // Where the keyboard goes once the next state is drawn.
  const focusOn = useRef<string>(undefined);
  useLayoutEffect(() => {
    const target = focusOn.current && document.querySelector<HTMLElement>(focusOn.current);
    if (!target) return;
    target.focus();
    focusOn.current = undefined;
  });
  const show: typeof chosen.show = (line, slip) => {
    if (slip && line !== undefined) focusOn.current = `[data-slip-first="${line}"]`;
    chosen.show(line, slip);
  };
  const acts = useSheetActs({ editor, lines, show, choose: chosen.choose, extend: chosen.extend, fold: chosen.fold, insert: setInserting });

  const insert = (kind: StepKind) => {
    if (inserting === undefined) return;
    const made = newStep(plan, kind);
    change({ ...draft, plan: insertStep(plan, inserting, made) }, `Insert “${made.name}”`);
    setInserting(undefined);
    acts.open(made.id);
  };
  const edit = (next: Step, what: string) =>
    change({ ...draft, plan: replaceStep(plan, next) }, `Edit ${what} of “${findStep(plan, next.id)?.name ?? ''}”`);
  const mend = (f: Finding) => {
    if (!f.fix) return;
    change({ ...draft, plan: applyEdit(plan, f.fix.edit) }, `${f.fix.words} (${f.sentence})`);
    toast(`Mended: ${f.fix.words}`, { action: { label: 'Undo', onClick: () => void undo() } });
  };
  const toLine = () => {
    focusOn.current = `[data-line="${cursor ?? lines[0]?.id ?? ''}"], [data-sentence="${cursor ?? ''}"]`;
  };
  const close = () => {
    toLine();
    chosen.show(cursor, false);
  };
  const foldable = lines.filter((l) => l.holds > 0).map((l) => l.id);
  const end = plan.steps.at(-1);
  const slip = chosen.slip && step;
  // Its settings wait for what the step can read; its name does not.
  const read = studied.step === cursor;

  return (
    <div className={clsx('grid grid-cols-1 bg-sheet', slip && 'lg:grid-cols-[minmax(0,1fr)_360px]')}>
      <main id="main" className="flex min-h-[calc(100vh-94px)] min-w-0 flex-col lg:h-[calc(100vh-94px)] print:h-auto!">
        <h2 className="sr-only">Plan</h2>
        <PlanHead
          density={density}
          lines={lines}
          allFolded={foldable.length === 0 ? undefined : foldable.every((l) => chosen.folded.has(l))}
          onFoldAll={(on) => chosen.fold(foldable, on)}
        >
          <SheetFind
            box={finder}
            words={sought}
            found={found}
            at={found.indexOf(cursor ?? '')}
            onWords={setSought}
            onGo={(id) => chosen.show(id, false)}
            onLeave={() => {
              toLine();
              setSought('');
            }}
          />
        </PlanHead>
        {against && <AgainstHead against={against} />}
        {density === 'sentences' ? (
          <SheetSentences lines={lines} facts={facts} findings={byStep} cursor={cursor} acts={acts} />
        ) : density === 'overview' ? (
          <SheetOverview
            lines={lines}
            facts={facts}
            findings={byStep}
            cursor={cursor}
            onGo={(line) => {
              focusOn.current = `[data-line="${line}"]`;
              setSearch(
                (was) => {
                  const next = new URLSearchParams(was);
                  next.delete('view');
                  next.set('step', line);
                  next.set('sel', '');
                  return next;
                },
                { preventScrollReset: true },
              );
            }}
          />
        ) : (
          <PlanSheet
            plan={plan}
            lines={lines}
            facts={facts}
            findings={byStep}
            differences={against?.steps ?? uncompared}
            folded={chosen.folded}
            cursor={cursor}
            run={run}
            matched={matched}
            acts={acts}
            onFind={() => finder.current?.select()}
            onHelp={() => setHelp(true)}
          />
        )}
        <Found findings={findings.filter((f) => !isOfAsk(f))} onMend={mend} view={view}>
          <Button weight="quiet" onClick={() => setHelp(true)}>
            Keys (?)
          </Button>
          <Button onClick={() => acts.paste(end ? { after: end.id } : 'start')}>Paste at the end</Button>
          {end && <Button onClick={() => setInserting({ after: end.id })}>Add a step at the end</Button>}
        </Found>
      </main>
      {slip && (
        <div className="min-w-0 lg:h-[calc(100vh-94px)] print:hidden [&>aside]:h-full">
          <StepSlip
            key={step.id}
            plan={plan}
            step={step}
            run={run}
            places={read ? studied.places : undefined}
            placesInside={studied.placesInside}
            findings={byStep.get(step.id) ?? []}
            acts={acts}
            onEdit={edit}
            onMend={mend}
            onClose={close}
          />
        </div>
      )}
      <InsertMenu
        open={inserting !== undefined}
        where={whereWords(inserting, (id) => findStep(plan, id)?.name ?? '')}
        onClose={() => {
          toLine();
          setInserting(undefined);
        }}
        onPick={insert}
      />
      <SheetHelp open={help} onClose={() => setHelp(false)} />
    </div>
  );
}

/** What the check finds: how much, and folded out, each with its mend. */
function Found({
  findings,
  onMend,
  view,
  children,
}: {
  findings: Finding[];
  onMend: (f: Finding) => void;
  view: string | null;
  children: ReactNode;
}) {
  const [open, setOpen] = useState(true);
  const words =
    findings.length === 0
      ? 'The check finds nothing'
      : findings.length === 1
        ? 'The check finds one thing'
        : `The check finds ${findings.length} things`;
  return (
    <section aria-label="What the check finds" className="shrink-0 border-t bg-paper px-4 py-1.5 md:px-6 print:hidden">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="font-medium">{words}</h2>
        {findings.length > 0 && (
          <Button weight="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Fold' : 'Show'}
            <span className="sr-only"> what it finds</span>
          </Button>
        )}
        <span className="ml-auto flex gap-2">{children}</span>
      </div>
      {open && (
        <ul className="mt-1 grid max-h-40 gap-x-8 gap-y-1 overflow-y-auto xl:grid-cols-2">
          {findings.map((f, i) => (
            <FindingLine key={i} finding={f} onMend={onMend} {...(f.step && { to: `?${view ? `view=${view}&` : ''}step=${f.step}` })} />
          ))}
        </ul>
      )}
    </section>
  );
}

function whereWords(at: Position | undefined, nameOf: (id: string) => string): string {
  if (at === undefined || at === 'start') return 'at the beginning';
  if ('into' in at) return `in a branch of “${nameOf(at.into)}”`;
  return 'after' in at ? `after “${nameOf(at.after)}”` : `before “${nameOf(at.before)}”`;
}
