import { useEffect, useId, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import { useLatest } from './latest';
import type { loader } from '~/routes/find';
import type { FoundKind } from '../../server/people/find.ts';

/** What is picked: what has a name of its own, a row of a table, or what somebody holds. */
type PickedKind = FoundKind | 'row' | 'holding';
const words: Record<PickedKind, { many: string; type: string }> = {
  person: { many: 'People', type: 'Type a part of the name' },
  group: { many: 'Groups', type: 'Type a part of the group’s name' },
  team: { many: 'Teams', type: 'Type a part of the team’s name' },
  item: { many: 'Items', type: 'Type a part of the item’s name' },
  location: { many: 'Places', type: 'Type a part of the place’s name' },
  kind: { many: 'Kinds', type: 'Type a part of the kind’s name' },
  department: { many: 'Departments', type: 'Type a part of the department’s name' },
  job: { many: 'Jobs', type: 'Type a part of what the job is called' },
  row: { many: 'Rows', type: 'Choose a row, or type a part of it' },
  holding: { many: 'Things held', type: 'Choose one, or type a part of its name' },
};

export interface Chosen {
  id: string;
  name: string;
}

/** Of these there are few: they are shown before anything is typed. */
const fewOf: ReadonlySet<PickedKind> = new Set(['row', 'holding']);

/**
 * Picks a person, or another thing that has a name, by typing a part of the name (WAI-ARIA combobox). Before scripts load it is a text box:
 * the server takes a name that is typed out in full.
 */
export function Picker({
  kind,
  within,
  name,
  chosen,
  onChoose,
  ...ids
}: {
  kind: PickedKind;
  /** Of a row: the table whose rows are offered; of a holding: the action that gave it, and whom it is asked for. */
  within?: Record<string, string | undefined>;
  name?: string;
  chosen: Chosen | undefined;
  onChoose: (chosen: Chosen | undefined) => void;
  id?: string;
  'aria-label'?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
}) {
  const list = useId();
  const { load, data, state } = useFetcher<typeof loader>();
  const [typed, setTyped] = useState<string>();
  const [at, setAt] = useState(0);
  const loadRef = useRef(load);
  const open = typed !== undefined;
  const asking = new URLSearchParams({ kind, ...Object.fromEntries(Object.entries(within ?? {}).filter(([, v]) => v !== undefined)) } as Record<
    string,
    string
  >).toString();
  useEffect(() => {
    if (typed === undefined) return;
    const wait = setTimeout(() => void loadRef.current(`/find?${asking}&q=${encodeURIComponent(typed)}`), 120);
    return () => clearTimeout(wait);
  }, [typed, asking]);
  // What an earlier text found is not what this one finds, and is not there to be chosen.
  const found = open && data?.q === typed;
  const choices = (found ? data?.choices : undefined) ?? [];
  /** Enter was pressed before the answer was there: the first of it is meant. */
  const eager = useRef(false);
  const choose = (c: Chosen | undefined) => {
    onChoose(c);
    setTyped(undefined);
    setAt(0);
  };
  const chooseRef = useLatest(choose);
  const first = choices[0];
  useEffect(() => {
    if (!eager.current || !found) return;
    eager.current = false;
    if (first) queueMicrotask(() => chooseRef.current(first));
  }, [found, first, chooseRef]);
  return (
    <div className="relative">
      {name && <input type="hidden" name={name} value={chosen?.id ?? ''} />}
      {name && <input type="hidden" name={`${name}.for`} value={chosen?.name ?? ''} />}
      <input
        {...ids}
        className="input"
        role="combobox"
        aria-expanded={open && choices.length > 0}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={open && choices[at] ? `${list}-${at}` : undefined}
        autoComplete="off"
        name={name && `${name}.name`}
        placeholder={words[kind].type}
        value={typed ?? chosen?.name ?? ''}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
          eager.current = false;
          if (e.target.value === '') onChoose(undefined);
        }}
        onFocus={(e) => e.target.select()}
        onClick={() => fewOf.has(kind) && !chosen && !open && setTyped('')}
        onBlur={() => setTyped(undefined)}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') {
            e.preventDefault();
            if (!open) setTyped(chosen?.name ?? '');
            else setAt(Math.min(at + 1, choices.length - 1));
          } else if (e.key === 'ArrowUp') {
            e.preventDefault();
            setAt(Math.max(at - 1, 0));
          } else if (e.key === 'Enter' && open && choices[at]) {
            e.preventDefault();
            choose(choices[at]);
          } else if (e.key === 'Enter' && typed && !found) {
            e.preventDefault();
            eager.current = true;
          } else if (e.key === 'Escape' && open) {
            e.stopPropagation();
            setTyped(undefined);
          }
        }}
      />
      {open && (
        <ul
          id={list}
          role="listbox"
          aria-label={words[kind].many}
          className="absolute z-30 mt-1 max-h-64 w-full overflow-y-auto rounded border bg-sheet p-1 shadow-float"
        >
          {choices.map((c, i) => (
            <li
              key={c.id}
              id={`${list}-${i}`}
              role="option"
              aria-selected={i === at}
              className="cursor-pointer rounded px-2 py-1 aria-selected:bg-sea-wash"
              onPointerDown={(e) => {
                e.preventDefault();
                choose(c);
              }}
            >
              <span className="block">{c.name}</span>
              {c.detail && <span className="block truncate text-sm text-faint">{c.detail}</span>}
            </li>
          ))}
          {choices.length === 0 && (
            <li className="px-2 py-1 text-faint">{!found || state === 'loading' ? 'Looking …' : 'Nobody and nothing by that name.'}</li>
          )}
        </ul>
      )}
    </div>
  );
}
