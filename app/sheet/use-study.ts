import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { ItemDefinition, ItemKind, Studied } from '../../core/items/index.ts';
import type { Catalogue } from '../../core/plans/index.ts';
import type { StudyWorker } from './study.worker';

interface Asked {
  kind: ItemKind;
  draft: ItemDefinition;
  catalogue: Catalogue;
  step: string | undefined;
}

/** Fetched only where there is no worker to be had. */
async function studyHere({ kind, draft, catalogue, step }: Asked): Promise<Studied> {
  const { study } = await import('../../core/items/index.ts');
  return study(kind, draft, catalogue, step);
}

/**
 * What is worked out from a draft, as it was a moment ago: a web worker does it, so that typing waits for nothing. While it is
 * at work only the newest draft waits for it. Where there is no worker to be had, the page does it itself.
 */
export function useStudy(
  { kind, studied: first }: { kind: ItemKind; studied: Studied },
  draft: ItemDefinition,
  catalogue: Catalogue,
  step: string | undefined,
): Studied {
  const [studied, setStudied] = useState(first);
  const give = useRef<(asked: Asked) => void>(undefined);
  // What was asked last; what the draft was loaded as has been studied already.
  const asked = useRef({ draft, catalogue, step: first.step });

  useEffect(() => {
    const worker = new Worker(new URL('./study.worker.ts', import.meta.url), { type: 'module' });
    const remote: Remote<StudyWorker> = wrap<StudyWorker>(worker);
    let broken = false;
    let known: Catalogue | undefined;
    let waiting: Asked | undefined;
    let busy = false;
    let over = false;
    const answer = async (asked: Asked): Promise<Studied> => {
      if (broken) return studyHere(asked);
      if (asked.catalogue !== known) await remote.know(asked.catalogue);
      known = asked.catalogue;
      return remote.study(asked.kind, asked.draft, asked.step);
    };
    const work = async (): Promise<void> => {
      busy = true;
      while (waiting && !over) {
        const asked = waiting;
        waiting = undefined;
        try {
          setStudiedUnlessOver(await answer(asked));
        } catch (error) {
          // What was worked out last stays; the next draft is tried again.
          reportError(error);
        }
      }
      busy = false;
    };
    const setStudiedUnlessOver = (next: Studied) => {
      if (!over) setStudied(next);
    };
    let last: Asked | undefined;
    worker.onerror = () => {
      broken = true;
      busy = false;
      if (last) give.current?.(last);
    };
    give.current = (asked) => {
      last = waiting = asked;
      if (!busy) void work();
    };
    return () => {
      over = true;
      give.current = undefined;
      worker.terminate();
    };
  }, []);

  useEffect(() => {
    const last = asked.current;
    if (last.draft === draft && last.catalogue === catalogue && last.step === step) return;
    asked.current = { draft, catalogue, step };
    give.current?.({ kind, draft, catalogue, step });
  }, [kind, draft, catalogue, step]);
  return studied;
}
