import { useCallback, useMemo, useState } from 'react';
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

export function useChosen(plan: Plan, lines: Line[]): Chosen {
  const [search, setSearch] = useSearchParams();
  const cursor = search.get('step') ?? undefined;
  const [anchor, setAnchor] = useState<string>();
  const step = cursor !== undefined && findStep(plan, cursor) !== undefined;
  const slip = step && !search.has('sel');
  const foldedText = search.get('folded') ?? '';
  const folded = useMemo(() => new Set(foldedText === 'all' ? foldable(lines) : foldedText.split(',').filter(Boolean)), [foldedText, lines]);
  const run = useMemo(
    () => (!step ? [] : anchor !== undefined && findStep(plan, anchor) ? runBetween(plan, anchor, cursor) : [cursor]),
    [plan, step, anchor, cursor],
  );

  const change = useCallback(
    (by: (params: URLSearchParams) => void) =>
      setSearch(
        (was) => {
          const next = new URLSearchParams(was);
          by(next);
          return next;
        },
        { replace: true, preventScrollReset: true },
      ),
    [setSearch],
  );
  const unfoldTo = (params: URLSearchParams, line: string) => {
    const hidden = above(lines, line).filter((l) => folded.has(l));
    if (hidden.length > 0) setFolded(params, new Set([...folded].filter((l) => !hidden.includes(l))));
  };
  const setFolded = (params: URLSearchParams, next: Set<string>) => {
    const all = foldable(lines);
    const text = all.length > 0 && all.every((l) => next.has(l)) ? 'all' : all.filter((l) => next.has(l)).join(',');
    if (text) params.set('folded', text);
    else params.delete('folded');
  };
  const put = (params: URLSearchParams, line: string | undefined, open: boolean) => {
    if (line === undefined) params.delete('step');
    else {
      params.set('step', line);
      unfoldTo(params, line);
    }
    if (open || line === undefined) params.delete('sel');
    else params.set('sel', '');
  };
  return {
    cursor,
    run,
    slip,
    folded,
    show: (line, open = slip) => {
      setAnchor(undefined);
      change((params) => put(params, line, open));
    },
    choose: (chosen) => {
      setAnchor(chosen[0]);
      change((params) => put(params, chosen.at(-1), slip && chosen.length === 1));
    },
    extend: (to, from = cursor) => {
      setAnchor((was) => was ?? from);
      change((params) => put(params, to, false));
    },
    fold: (which, on) =>
      change((params) => {
        const next = new Set(folded);
        for (const l of which) {
          if (on) next.add(l);
          else next.delete(l);
        }
        setFolded(params, next);
        // What the keyboard was on is not seen any more: it goes to what was folded over it.
        const over =
          cursor === undefined
            ? undefined
            : above(lines, cursor)
                .toReversed()
                .find((l) => next.has(l));
        if (over !== undefined) {
          params.set('step', over);
          params.set('sel', '');
        }
      }),
  };
}
