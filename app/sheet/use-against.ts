import { useEffect, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { compareItems, type Difference, type ItemDefinition } from '../../core/items/index.ts';
import { useEditor } from './draft-editor';

/** What the draft says otherwise than a revision. */
export interface Against {
  number: number;
  /** By step; undefined while it is being read. */
  steps: ReadonlyMap<string, Difference[]> | undefined;
  gone: Difference[];
  /** It cannot be read. */
  failed: boolean;
}

/** The revision that the address names (`?against=2`) beside the draft as it is now; it follows every change. */
export function useAgainst(): Against | undefined {
  const { id, kind, draft, catalogue } = useEditor();
  const [search] = useSearchParams();
  const number = Number(/^\d{1,6}$/.exec(search.get('against') ?? '')?.[0] ?? 0);
  const [read, setRead] = useState<{ number: number; before: ItemDefinition | undefined }>();
  useEffect(() => {
    if (number === 0) return;
    let gone = false;
    const load = async () => {
      const answer = await fetch(`/workshop/items/${id}/revisions/${number}`).catch(() => undefined);
      const found = answer?.ok ? ((await answer.json()) as { draft: ItemDefinition }) : undefined;
      if (!gone) setRead({ number, before: found?.draft });
    };
    void load();
    return () => {
      gone = true;
    };
  }, [id, number]);
  const before = read?.number === number ? read.before : undefined;
  const differences = useMemo(() => before && compareItems(kind, before, draft, catalogue), [kind, before, draft, catalogue]);
  return useMemo(() => {
    if (number === 0) return undefined;
    const steps = new Map<string, Difference[]>();
    for (const d of differences ?? []) if (d.step && d.is !== 'gone') steps.set(d.step, [...(steps.get(d.step) ?? []), d]);
    return {
      number,
      steps: differences ? steps : undefined,
      gone: (differences ?? []).filter((d) => d.of === 'plan' && (d.is === 'gone' || !d.step)),
      failed: read?.number === number && !before,
    };
  }, [number, differences, read, before]);
}

/** Nothing is compared. */
export const uncompared: ReadonlyMap<string, Difference[]> = new Map();
