import { clsx } from 'clsx';
import { Printer } from 'lucide-react';
import { useDeferredValue, useMemo } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { workingMinutes } from '../../core/calendar/index.ts';
import { analyseTime, outcomeWords, scriptText, type Place, type ScriptLine } from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { useEditor } from './draft-editor';
import { DurationInput, Optional } from './duration-input';
import { PlaceSelect } from './place-select';
import { freshKey } from '~/ui/fresh-key';

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
            if (place) set([...outputs, { name: freshKey(place.label), label: place.label, type: place.type, from: { ref: place.ref } }]);
          }}
        />
      </div>
    </details>
  );
}

/** What holds for the plan as a whole: its two views, what is promised, and what is taken back when it ends badly. */
export function PlanHead({ script, endPlaces }: { script: ScriptLine[] | undefined; endPlaces: Place[] }) {
  const { kind, draft, change, catalogue } = useEditor();
  const time = useDeferredValue(draft);
  const analysis = useMemo(
    () => analyseTime(time.plan, time.promise === undefined ? undefined : workingMinutes(time.promise), catalogue),
    [time, catalogue],
  );
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
