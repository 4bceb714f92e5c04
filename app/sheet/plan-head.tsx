import { clsx } from 'clsx';
import { Printer } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { minutesWords, workingMinutes } from '../../core/calendar/index.ts';
import { outcomeWords, scriptText, type Line, type Place } from '../../core/plans/index.ts';
import { RemoveButton } from '~/ui/list-editor';
import { useEditor } from './draft-editor';
import { DurationInput, Optional } from './duration-input';
import { PlaceSelect } from './place-select';
import { TeamSelect } from './team-select';
import { freshKey } from '~/ui/fresh-key';
import { Checkbox } from '~/ui/checkbox';
import { NumberField } from '~/ui/number-field';

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
            <RemoveButton what={`output ${o.label}`} onClick={() => set(outputs.toSpliced(i, 1))} />
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

/** How much of the plan is seen at once. */
export type Density = 'names' | 'sentences' | 'overview';
const densities: [Density, string][] = [
  ['names', 'Names'],
  ['sentences', 'Sentences'],
  ['overview', 'Overview'],
];

/** What holds for the plan as a whole: how it is shown, what is promised, and what is taken back when it ends badly. */
export function PlanHead({
  density,
  lines,
  allFolded,
  onFoldAll,
  children,
}: {
  density: Density;
  lines: Line[];
  /** Undefined where nothing can be folded. */
  allFolded: boolean | undefined;
  onFoldAll: (on: boolean) => void;
  /** The finder. */
  children: ReactNode;
}) {
  const { kind, draft, studied } = useEditor();
  const { facts } = studied;
  const [search] = useSearchParams();
  const to = (next: Density) => {
    const params = new URLSearchParams(search);
    if (next === 'names') params.delete('view');
    else params.set('view', next);
    return `?${params.toString()}`;
  };
  const promised = draft.promise === undefined ? undefined : workingMinutes(draft.promise);
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b px-4 py-1 text-sm md:px-6 print:hidden">
      <nav aria-label="Views of the plan" className="flex gap-1">
        {densities.map(([d, words]) => (
          <Link
            key={d}
            to={to(d)}
            replace
            preventScrollReset
            aria-current={d === density ? 'page' : undefined}
            className={clsx('rounded px-2 py-0.5', d === density ? 'bg-sea-wash font-medium text-ink' : 'text-sea hover:underline')}
          >
            {words}
          </Link>
        ))}
      </nav>
      {density === 'names' && allFolded !== undefined && (
        <button type="button" className="text-sea hover:underline" onClick={() => onFoldAll(!allFolded)}>
          {allFolded ? 'Unfold all' : 'Fold all'}
        </button>
      )}
      {density === 'sentences' && (
        <>
          <button type="button" className="flex items-center gap-1 text-sea hover:underline" onClick={() => window.print()}>
            <Printer size={14} aria-hidden /> Print
          </button>
          <button
            type="button"
            className="text-sea hover:underline"
            onClick={() => void navigator.clipboard.writeText(scriptText(lines, facts)).then(() => toast('The sentences are on the clipboard.'))}
          >
            Copy as text
          </button>
        </>
      )}
      {kind === 'item' ? <Promise /> : <Outputs places={studied.end} />}
      {children}
      <a href="bpmn" className="text-sea hover:underline" download>
        BPMN file
      </a>
      <p className="ml-auto flex flex-wrap gap-x-3 text-faint">
        <span>
          longest way <Figure>{minutesWords(facts.longest)}</Figure>
        </span>
        {promised !== undefined && (
          <span className={clsx(promised < facts.longest && 'text-coral')}>
            promised <Figure>{minutesWords(promised)}</Figure>
          </span>
        )}
        {facts.chance !== undefined && (
          <span data-tip="By the normal approximation of PERT, each choice weighed by how often its cases are taken">
            chance to keep it <Figure>{Math.round(facts.chance * 100)} %</Figure>
          </span>
        )}
      </p>
    </div>
  );
}

const Figure = ({ children }: { children: ReactNode }) => <span className="numbers text-ink">{children}</span>;

/** What is promised, and what is taken back of it when it ends badly. */
function Promise() {
  const { draft, change, catalogue } = useEditor();
  const undoWhen = draft.plan.undoWhen ?? [];
  const [first] = Object.keys(catalogue.teams ?? {});
  return (
    <details className="relative">
      <summary className="cursor-pointer text-sea">Promised time, taking back</summary>
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
        {first !== undefined || draft.watched ? (
          <Optional
            label="Tell a team when it is near"
            help="The whole, or a milestone; and again when it is late."
            value={draft.watched}
            start={{ at: 75, team: first ?? '' }}
            onChange={(watched) => change({ ...draft, watched }, 'Edit who is told of the promise')}
          >
            {(watched) => {
              const set = (next: Partial<typeof watched>) =>
                change({ ...draft, watched: { ...watched, ...next } }, 'Edit who is told of the promise');
              return (
                <div className="space-y-1">
                  <TeamSelect value={watched.team} onTeam={(team) => team && set({ team })} />
                  <NumberField before="Once" after="% of it are used" whole min={1} max={99} value={watched.at} onValue={(at) => at && set({ at })} />
                </div>
              );
            }}
          </Optional>
        ) : (
          <p className="text-sm text-faint">Nobody can be told when it is near: there is no team yet.</p>
        )}
        <fieldset>
          <legend className="mb-1 font-medium">Take back what was provisioned when it ends as</legend>
          {(['failed', 'declined', 'lapsed', 'withdrawn'] as const).map((o) => (
            <label key={o} className="flex items-center gap-2 py-0.5">
              <Checkbox
                checked={undoWhen.includes(o)}
                onChecked={(on) =>
                  change(
                    { ...draft, plan: { ...draft.plan, undoWhen: on ? [...undoWhen, o] : undoWhen.filter((x) => x !== o) } },
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
  );
}
