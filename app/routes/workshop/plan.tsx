import { clsx } from 'clsx';
import { Printer } from 'lucide-react';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { workingMinutes } from '../../../core/calendar/index.ts';
import { placesAtStart } from '../../../core/items/index.ts';
import {
  analyseTime,
  applyEdit,
  duplicateStep,
  findStep,
  insertStep,
  layoutSheet,
  moveStep,
  moveTo,
  namingOf,
  newStep,
  outcomeWords,
  pasteSteps,
  removeStep,
  replaceStep,
  scriptOf,
  scriptText,
  stepSentence,
  unwrapStep,
  walk,
  walkPlaces,
  wrapStep,
  type Finding,
  type Place,
  type Places,
  type Plan as PlanModel,
  type Position,
  type ScriptLine,
  type Step,
  type StepKind,
} from '../../../core/plans/index.ts';
import { idFrom } from '../../../core/values/index.ts';
import { useEditor, type DraftEditor } from '~/sheet/draft-editor';
import { DurationInput, Optional } from '~/sheet/duration-input';
import { FindingLine } from '~/sheet/finding-line';
import { PlaceSelect } from '~/sheet/place-select';
import { InsertMenu } from '~/sheet/insert-menu';
import { PlanSheet, type SheetActs } from '~/sheet/plan-sheet';
import { ScriptView } from '~/sheet/script-view';
import { copiedSteps, copySteps } from '~/sheet/step-clipboard';
import { StepSlip } from '~/sheet/step-slip';
import { Button } from '~/ui/button';

/** Everything that is worked out from a plan for drawing it. It may lag behind typing by a frame; the slip never does. */
function useAnalysis({ kind, draft, catalogue }: DraftEditor, selected: string | undefined) {
  const late = useDeferredValue(draft);
  return useMemo(() => {
    const { plan } = late;
    const at = new Map<string, Places>();
    const start = placesAtStart(late, kind);
    const { anywhere, end } = walkPlaces(plan.steps, start, catalogue, (s, here) => {
      if (s.id === selected) at.set(s.id, new Map(here));
    });
    const chosen = selected === undefined ? undefined : findStep(plan, selected);
    const inside = chosen?.kind === 'repeat' ? walkPlaces(chosen.body, at.get(chosen.id) ?? start, catalogue, () => undefined).end : undefined;
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
      places: list(selected === undefined ? undefined : at.get(selected)),
      placesInside: list(inside ?? (selected === undefined ? undefined : at.get(selected))),
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
      copySteps([found]);
      if (cut) acts.remove(id);
      else toast(`“${found.name}” copied. Ctrl V puts it after the chosen step, here or in another item.`, { duration: 2500 });
    },
    paste: (at) => {
      const copied = copiedSteps();
      if (!copied.ok) return void toast(copied.sentence);
      const { plan: next, copy } = pasteSteps(plan, copied.steps, at);
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

/** What a part gives back: names for places that exist at its end. */
function Outputs({ places }: { places: Place[] }) {
  const { draft, change } = useEditor();
  const outputs = draft.outputs ?? [];
  const set = (next: typeof outputs) => change({ ...draft, outputs: next }, 'Edit what it gives back');
  return (
    <details className="relative">
      <summary className="cursor-pointer text-sea">Gives back ({outputs.length})</summary>
      <div className="absolute z-30 mt-1 w-96 space-y-2 rounded border bg-sheet p-3 shadow-float">
        {outputs.map((o, i) => (
          <div key={o.name} className="grid grid-cols-[1fr_1fr_auto] gap-1">
            <input
              className="input"
              aria-label={`Output ${i + 1}: label`}
              value={o.label}
              maxLength={120}
              onChange={(e) => set(outputs.with(i, { ...o, label: e.target.value }))}
            />
            <PlaceSelect
              aria-label={`Output ${i + 1}: value`}
              places={places}
              value={o.from.ref}
              onChange={(ref) => {
                const place = places.find((p) => p.ref === ref);
                if (place) set(outputs.with(i, { ...o, from: { ref: place.ref }, type: place.type }));
              }}
            />
            <Button weight="quiet" onClick={() => set(outputs.toSpliced(i, 1))}>
              Remove<span className="sr-only"> output {o.label}</span>
            </Button>
          </div>
        ))}
        <PlaceSelect
          aria-label="Give another value back"
          places={places}
          value={undefined}
          empty="Give another value back …"
          onChange={(ref) => {
            const place = places.find((p) => p.ref === ref);
            if (place)
              set([
                ...outputs,
                { name: idFrom(place.label, new Set(outputs.map((o) => o.name))), label: place.label, type: place.type, from: { ref: place.ref } },
              ]);
          }}
        />
      </div>
    </details>
  );
}

/** What holds for the plan as a whole: its two views, what is promised, and what is taken back when it ends badly. */
function PlanHead({ script, endPlaces }: { script: ScriptLine[] | undefined; endPlaces: Place[] }) {
  const { kind, draft, change } = useEditor();
  const time = useDeferredValue(draft);
  const analysis = useMemo(() => analyseTime(time.plan, time.promise === undefined ? undefined : workingMinutes(time.promise)), [time]);
  const undoWhen = draft.plan.undoWhen ?? [];
  const tab = (on: boolean | undefined) =>
    clsx('rounded px-2 py-0.5', on ? 'bg-sea-wash font-medium text-ink' : 'text-sea underline underline-offset-4');
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b px-4 py-1.5 text-sm md:px-6 print:hidden">
      <nav aria-label="Views of the plan" className="flex gap-1">
        <Link to="?" preventScrollReset className={tab(script === undefined)} aria-current={script ? undefined : 'page'}>
          Sheet
        </Link>
        <Link to="?view=script" preventScrollReset className={tab(script !== undefined)} aria-current={script ? 'page' : undefined}>
          Script
        </Link>
      </nav>
      {script && (
        <>
          <button type="button" className="flex items-center gap-1 text-sea" onClick={() => window.print()}>
            <Printer size={14} aria-hidden /> Print
          </button>
          <button
            type="button"
            className="text-sea underline underline-offset-4"
            onClick={() => void navigator.clipboard.writeText(scriptText(script)).then(() => toast('The script is on the clipboard.'))}
          >
            Copy as text
          </button>
        </>
      )}
      {kind === 'item' && (
        <>
          <details className="relative">
            <summary className="cursor-pointer text-sea">Promise and undo</summary>
            <div className="absolute z-30 mt-1 w-80 space-y-3 rounded border bg-sheet p-3 shadow-float">
              <Optional
                label="Promise a time"
                help="Working time from asking to the end."
                value={draft.promise}
                start="P5D"
                onChange={(promise) => change({ ...draft, promise }, 'Edit the promise')}
              >
                {(promise) => (
                  <DurationInput
                    label="Promised working time"
                    iso={promise}
                    min={1}
                    onChange={(p) => change({ ...draft, promise: p }, 'Edit the promise')}
                  />
                )}
              </Optional>
              <fieldset>
                <legend className="mb-1 font-medium">Take back what was provisioned when it ends as</legend>
                {(['failed', 'declined', 'lapsed', 'withdrawn'] as const).map((o) => (
                  <label key={o} className="flex items-center gap-2 py-0.5">
                    <input
                      type="checkbox"
                      className="size-4 accent-sea"
                      checked={undoWhen.includes(o)}
                      onChange={(e) =>
                        change(
                          { ...draft, plan: { ...draft.plan, undoWhen: e.target.checked ? [...undoWhen, o] : undoWhen.filter((x) => x !== o) } },
                          'Edit when it is undone',
                        )
                      }
                    />
                    {outcomeWords[o]}
                  </label>
                ))}
              </fieldset>
            </div>
          </details>
          {analysis.chance !== undefined && (
            <p className="text-faint" title="By the normal approximation of PERT, each choice weighed by how often its cases are taken">
              chance to keep the promise <span className="numbers font-medium text-ink">{Math.round(analysis.chance * 100)} %</span>
            </p>
          )}
        </>
      )}
      {kind === 'part' && <Outputs places={endPlaces} />}
      <a href="bpmn" className="ml-auto text-sea underline underline-offset-4" download>
        BPMN file
      </a>
    </div>
  );
}

function whereWords(at: Position | undefined, nameOf: (id: string) => string): string {
  if (at === undefined || at === 'start') return 'at the beginning';
  if ('into' in at) return `in a branch of “${nameOf(at.into)}”`;
  return 'after' in at ? `after “${nameOf(at.after)}”` : `before “${nameOf(at.before)}”`;
}
