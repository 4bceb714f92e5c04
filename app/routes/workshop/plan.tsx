import { clsx } from 'clsx';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { workingMinutes } from '../../../core/calendar/index.ts';
import { placesAtStart } from '../../../core/items/index.ts';
import {
  applyEdit,
  duplicateStep,
  findStep,
  insertStep,
  layoutSheet,
  moveStep,
  moveTo,
  namingOf,
  newStep,
  pasteSteps,
  removeStep,
  replaceStep,
  scriptOf,
  stepSentence,
  unwrapStep,
  walk,
  walkPlaces,
  wrapStep,
  type Finding,
  type Places,
  type Plan as PlanModel,
  type Position,
  type Step,
  type StepKind,
} from '../../../core/plans/index.ts';
import { useEditor, type DraftEditor } from '~/sheet/draft-editor';
import { FindingLine } from '~/sheet/finding-line';
import { InsertMenu } from '~/sheet/insert-menu';
import { PlanHead } from '~/sheet/plan-head';
import { PlanSheet } from '~/sheet/plan-sheet';
import type { SheetActs } from '~/sheet/sheet-step';
import { ScriptView } from '~/sheet/script-view';
import { copiedSteps, copySteps } from '~/sheet/step-clipboard';
import { StepSlip } from '~/sheet/step-slip';
import { Button } from '~/ui/button';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

/** Everything that is worked out from a plan for drawing it. It may lag behind typing by a frame; the slip never does. */
function useAnalysis({ kind, draft, catalogue }: DraftEditor, selected: string | undefined) {
  const late = useDeferredValue(draft);
  return useMemo(() => {
    const { plan } = late;
    const at = new Map<string, Places>();
    const start = placesAtStart(late, kind);
    const { anywhere, end } = walkPlaces(plan.steps, start, catalogue, (s, here, when) => {
      if (s.id === selected) at.set(when, new Map(here));
    });
    const naming = namingOf(anywhere, catalogue);
    const steps = new Map([...walk(plan.steps)].map((w) => [w.step.id, w.step]));
    const sentences = new Map([...steps].map(([id, s]) => [id, stepSentence(s, naming, catalogue)]));
    const list = (places: Places | undefined) => [...(places?.values() ?? [])];
    return {
      plan,
      steps,
      sentences,
      naming,
      end: list(end),
      places: list(at.get('before')),
      placesInside: list(at.get('test') ?? at.get('before')),
      layout: layoutSheet(plan, naming, catalogue),
    };
  }, [late, kind, catalogue, selected]);
}

/** The leaf Plan: the plan sheet, the slip of the chosen step, and what the check finds. */
export default function Plan() {
  const editor = useEditor();
  const { draft, change, catalogue, findings, undo } = editor;
  const { plan } = draft;
  const [search, setSearch] = useSearchParams();
  const [inserting, setInserting] = useState<Position>();
  const selected = search.get('step') ?? undefined;
  const step = selected ? findStep(plan, selected) : undefined;
  const open = search.has('open') || !search.has('sel');

  const analysis = useAnalysis(editor, selected);
  const script = search.get('view') === 'script';
  const lines = useMemo(() => (script ? scriptOf(analysis.plan, analysis.naming, catalogue) : []), [script, analysis, catalogue]);

  const show = useCallback(
    (id: string | undefined, slip: boolean) =>
      setSearch((was) => ({ ...(was.has('view') && { view: was.get('view')! }), ...(id && { step: id }), ...(id && !slip && { sel: '' }) }), {
        replace: true,
        preventScrollReset: true,
      }),
    [setSearch],
  );
  const setPlan = (next: PlanModel, did: string) => {
    if (next !== plan) change({ ...draft, plan: next }, did);
  };
  // Where the keyboard goes once the next state is drawn.
  const focusOn = useRef<string>(undefined);
  useEffect(() => {
    const target = focusOn.current && document.querySelector<HTMLElement>(focusOn.current);
    if (!target) return;
    target.focus();
    focusOn.current = undefined;
  });
  const nameOf = (id: string) => findStep(plan, id)?.name ?? '';

  const acts: SheetActs = {
    select: (id) => show(id, open && step !== undefined),
    open: (id) => {
      focusOn.current = `[data-slip-first="${id}"]`;
      show(id, true);
    },
    insert: setInserting,
    remove: (id) => {
      const name = nameOf(id);
      const order = [...analysis.steps.keys()];
      setPlan(removeStep(plan, id), `Remove “${name}”`);
      show(order[order.indexOf(id) - 1], false);
      toast(`“${name}” removed`, { action: { label: 'Undo', onClick: () => void undo() } });
    },
    move: (id, way) => {
      setPlan(moveStep(plan, id, way), `Move “${nameOf(id)}” ${way}`);
      show(id, open && step !== undefined);
    },
    copy: (id, cut) => {
      const found = findStep(plan, id);
      if (!found) return;
      copySteps([found], editor.id);
      if (cut) acts.remove(id);
      else toast(`“${found.name}” copied. Ctrl V puts it after the chosen step, here or in another item.`, { duration: 2500 });
    },
    paste: (at) => {
      const copied = copiedSteps();
      if (!copied.ok) return void toast(copied.sentence);
      const { plan: next, copy } = pasteSteps(plan, copied.steps, at, copied.item === editor.id ? 'home' : 'elsewhere');
      setPlan(next, `Paste “${copied.steps[0]?.name ?? ''}”`);
      show(copy, open && step !== undefined);
    },
    wrap: (id, kind) => {
      const { plan: next, wrapper } = wrapStep(plan, id, kind);
      setPlan(next, `Wrap “${nameOf(id)}”`);
      if (wrapper) acts.open(wrapper);
    },
    unwrap: (id) => {
      setPlan(unwrapStep(plan, id), `Unwrap “${nameOf(id)}”`);
      show(undefined, false);
    },
    drop: (id, at) => {
      setPlan(moveTo(plan, id, at), `Move “${nameOf(id)}”`);
      show(id, open && step !== undefined);
    },
    duplicate: (id) => {
      const { plan: next, copy } = duplicateStep(plan, id);
      setPlan(next, `Duplicate “${nameOf(id)}”`);
      show(copy, open && step !== undefined);
    },
  };
  const insert = (kind: StepKind) => {
    if (inserting === undefined) return;
    const made = newStep(plan, kind);
    setPlan(insertStep(plan, inserting, made), `Insert “${made.name}”`);
    setInserting(undefined);
    acts.open(made.id);
  };
  const edit = (next: Step, what: string) => setPlan(replaceStep(plan, next), `Edit ${what} of “${nameOf(next.id)}”`);
  const mend = (f: Finding) => {
    if (!f.fix) return;
    setPlan(applyEdit(plan, f.fix.edit), `${f.fix.words} (${f.sentence})`);
    toast(`Mended: ${f.fix.words}`, { action: { label: 'Undo', onClick: () => void undo() } });
  };
  const close = () => {
    focusOn.current = `[data-step="${selected ?? ''}"]`;
    show(selected, false);
  };
  const general = findings.filter((f) => f.field === undefined);
  const slip = step && open;

  return (
    <div className={clsx('grid grid-cols-1 bg-sheet', slip && 'lg:grid-cols-[minmax(0,1fr)_360px]')}>
      <main id="main" className="flex min-h-[calc(100vh-130px)] min-w-0 flex-col lg:h-[calc(100vh-130px)]">
        <PlanHead script={script ? lines : undefined} endPlaces={analysis.end} />
        <div className="min-h-0 grow overflow-auto pt-2">
          <h2 className="sr-only">Plan</h2>
          {script ? (
            <ScriptView lines={lines} findings={findings} selected={step?.id} acts={acts} />
          ) : (
            <PlanSheet
              plan={analysis.plan}
              promised={draft.promise === undefined ? undefined : workingMinutes(draft.promise)}
              layout={analysis.layout}
              steps={analysis.steps}
              sentences={analysis.sentences}
              findings={findings}
              selected={step?.id}
              acts={acts}
            />
          )}
        </div>
        <section aria-label="What the check finds" className="max-h-52 shrink-0 overflow-y-auto border-t bg-paper px-4 py-2 md:px-6 print:hidden">
          <div className="flex items-center gap-3">
            <h2 className="font-medium">
              {general.length === 0
                ? 'The check finds nothing'
                : general.length === 1
                  ? 'The check finds one thing'
                  : `The check finds ${general.length} things`}
            </h2>
            {plan.steps.length > 0 && (
              <span className="ml-auto flex gap-2">
                <Button onClick={() => acts.paste({ after: plan.steps.at(-1)!.id })}>Paste at the end</Button>
                <Button onClick={() => setInserting({ after: plan.steps.at(-1)!.id })}>Add a step at the end</Button>
              </span>
            )}
          </div>
          <ul className="mt-1 grid gap-x-8 gap-y-1 xl:grid-cols-2">
            {general.map((f, i) => (
              <FindingLine key={i} finding={f} onMend={mend} {...(f.step && { to: `?${script ? 'view=script&' : ''}step=${f.step}` })} />
            ))}
          </ul>
        </section>
      </main>
      {slip && (
        <div className="min-w-0 lg:h-[calc(100vh-130px)] [&>aside]:h-full">
          <StepSlip
            key={step.id}
            step={step}
            places={analysis.places}
            placesInside={analysis.placesInside}
            findings={findings.filter((f) => f.step === step.id)}
            acts={acts}
            onEdit={edit}
            onMend={mend}
            onClose={close}
          />
        </div>
      )}
      <InsertMenu open={inserting !== undefined} where={whereWords(inserting, nameOf)} onClose={() => setInserting(undefined)} onPick={insert} />
    </div>
  );
}

function whereWords(at: Position | undefined, nameOf: (id: string) => string): string {
  if (at === undefined || at === 'start') return 'at the beginning';
  if ('into' in at) return `in a branch of “${nameOf(at.into)}”`;
  return 'after' in at ? `after “${nameOf(at.after)}”` : `before “${nameOf(at.before)}”`;
}
