import { useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { above, findStep, runBetween, type Line, type Plan, type Run } from '../../core/plans/index.ts';

/** What is chosen, folded and open on the sheet; all of it but the choice of several stands in the address. */
export interface Chosen {
  /** The line the keyboard is on. */
  cursor: string | undefined;
  /** The steps that are chosen; one, or siblings that stand together. */
  run: Run;
  /** The settings of the chosen step are open. */
  slip: boolean;
  folded: ReadonlySet<string>;
  show: (line: string | undefined, slip?: boolean) => void;
  choose: (run: Run) => void;
  extend: (to: string, from?: string) => void;
  fold: (lines: string[], on: boolean) => void;
}

const foldable = (lines: Line[]): string[] => lines.filter((l) => l.holds > 0).map((l) => l.id);

/** What an address says is folded. */
const foldedIn = (params: URLSearchParams, lines: Line[]): Set<string> => {
  const text = params.get('folded') ?? '';
  return new Set(text === 'all' ? foldable(lines) : text.split(',').filter(Boolean));
};
function putFolded(params: URLSearchParams, lines: Line[], folded: Set<string>): void {
  const all = foldable(lines);
  const text = all.length > 0 && all.every((l) => folded.has(l)) ? 'all' : all.filter((l) => folded.has(l)).join(',');
  if (text) params.set('folded', text);
  else params.delete('folded');
}
/** Puts the keyboard on a line; what hides it is unfolded. */
function putLine(params: URLSearchParams, lines: Line[], line: string | undefined, open: boolean): void {
  if (line === undefined) params.delete('step');
  else {
    params.set('step', line);
    const hidden = new Set(above(lines, line));
    const folded = foldedIn(params, lines);
    if ([...hidden].some((l) => folded.has(l))) putFolded(params, lines, new Set([...folded].filter((l) => !hidden.has(l))));
  }
  if (open || line === undefined) params.delete('sel');
  else params.set('sel', '');
}

export function useChosen(plan: Plan, lines: Line[]): Chosen {
  const [search, setSearch] = useSearchParams();
  const cursor = search.get('step') ?? undefined;
  const [anchor, setAnchor] = useState<string>();
  const step = cursor !== undefined && findStep(plan, cursor) !== undefined;
  const slip = step && !search.has('sel');
  const folded = useMemo(() => foldedIn(search, lines), [search, lines]);
  const run = useMemo(
    () => (!step ? [] : anchor !== undefined && findStep(plan, anchor) ? runBetween(plan, anchor, cursor) : [cursor]),
    [plan, step, anchor, cursor],
  );

  // The address follows a moment later: what two keys in a row change is changed on top of each other.
  const latest = useRef(search);
  useLayoutEffect(() => {
    latest.current = search;
  }, [search]);
  const change = (by: (params: URLSearchParams) => void): void => {
    const next = new URLSearchParams(latest.current);
    by(next);
    if (next.toString() === latest.current.toString()) return;
    latest.current = next;
    setSearch(next, { replace: true, preventScrollReset: true });
  };
  return {
    cursor,
    run,
    slip,
    folded,
    show: (line, open = slip) => {
      setAnchor(undefined);
      change((params) => putLine(params, lines, line, open));
    },
    choose: (chosen) => {
      setAnchor(chosen[0]);
      change((params) => putLine(params, lines, chosen.at(-1), slip && chosen.length === 1));
    },
    extend: (to, from = cursor) => {
      setAnchor((was) => was ?? from);
      change((params) => putLine(params, lines, to, false));
    },
    fold: (which, on) =>
      change((params) => {
        const next = foldedIn(params, lines);
        for (const l of which) {
          if (on) next.add(l);
          else next.delete(l);
        }
        putFolded(params, lines, next);
        // What the keyboard was on is not seen any more: it goes to what was folded over it.
        const here = params.get('step');
        const over =
          here === null
            ? undefined
            : above(lines, here)
                .toReversed()
                .find((l) => next.has(l));
        if (over === undefined) return;
        params.set('step', over);
        params.set('sel', '');
      }),
  };
}
