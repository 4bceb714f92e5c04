import { clsx } from 'clsx';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import {
  duplicateStep,
  findStep,
  insertStep,
  layoutSheet,
  moveStep,
  namingOf,
  newStep,
  placesByStep,
  removeStep,
  replaceStep,
  stepSentence,
  walk,
  type Plan as PlanModel,
  type Position,
  type Step,
  type StepKind,
} from '../../../core/plans/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { FindingLine } from '~/sheet/finding-line';
import { InsertMenu } from '~/sheet/insert-menu';
import { PlanSheet, type SheetActs } from '~/sheet/plan-sheet';
import { StepSlip } from '~/sheet/step-slip';
import { Button } from '~/ui/button';

/** The leaf Plan: the plan sheet, the slip of the chosen step, and what the check finds. */
export default function Plan() {
  const editor = useEditor();
  const { draft, change, catalogue, findings, undo } = editor;
  const { plan, form } = draft;
  const [search, setSearch] = useSearchParams();
  const [inserting, setInserting] = useState<Position>();
  const selected = search.get('step') ?? undefined;
  const step = selected ? findStep(plan, selected) : undefined;
  const open = search.has('open') || !search.has('sel');

  const analysis = useMemo(() => {
    const places = placesByStep(plan, form, catalogue);
    const naming = namingOf(places.anywhere, catalogue);
    const steps = new Map([...walk(plan.steps)].map((w) => [w.step.id, w.step]));
    const sentences = new Map([...steps].map(([id, s]) => [id, stepSentence(s, naming, catalogue)]));
    return { places, steps, sentences, layout: layoutSheet(plan, naming, catalogue) };
  }, [plan, form, catalogue]);

  const show = useCallback(
    (id: string | undefined, slip: boolean) =>
      setSearch(id ? (slip ? { step: id } : { step: id, sel: '' }) : {}, { replace: true, preventScrollReset: true }),
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
  const close = () => {
    focusOn.current = `[data-step="${selected ?? ''}"]`;
    show(selected, false);
  };
  const general = findings.filter((f) => f.field === undefined);
  const slip = step && open;

  return (
    <div className={clsx('grid grid-cols-1 bg-sheet', slip && 'lg:grid-cols-[minmax(0,1fr)_360px]')}>
      <main id="main" className="flex min-h-[calc(100vh-130px)] min-w-0 flex-col lg:h-[calc(100vh-130px)]">
        <div className="min-h-0 grow overflow-auto pt-2">
          <h2 className="sr-only">Plan</h2>
          <PlanSheet
            layout={analysis.layout}
            steps={analysis.steps}
            sentences={analysis.sentences}
            findings={findings}
            selected={step?.id}
            acts={acts}
          />
        </div>
        <section aria-label="What the check finds" className="max-h-52 shrink-0 overflow-y-auto border-t bg-paper px-4 py-2 md:px-6">
          <div className="flex items-center gap-3">
            <h2 className="font-medium">
              {general.length === 0
                ? 'The check finds nothing'
                : general.length === 1
                  ? 'The check finds one thing'
                  : `The check finds ${general.length} things`}
            </h2>
            {plan.steps.length > 0 && (
              <Button className="ml-auto" onClick={() => setInserting({ after: plan.steps.at(-1)!.id })}>
                Add a step at the end
              </Button>
            )}
          </div>
          <ul className="mt-1 grid gap-x-8 gap-y-1 xl:grid-cols-2">
            {general.map((f, i) => (
              <FindingLine key={i} finding={f} {...(f.step && { to: `?step=${f.step}` })} />
            ))}
          </ul>
        </section>
      </main>
      {slip && (
        <div className="min-w-0 lg:h-[calc(100vh-130px)] [&>aside]:h-full">
          <StepSlip
            key={step.id}
            step={step}
            places={[...(analysis.places.at.get(step.id)?.values() ?? [])]}
            findings={findings.filter((f) => f.step === step.id)}
            acts={acts}
            onEdit={edit}
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
