import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { PlaceTree, RoutingAnalysis, RoutingDomain, RoutingTable } from '../../core/routing/index.ts';
import type { AnalysisWorker } from './analysis.worker';

/** What was looked through: the table as it was, and what was found. */
export interface Looked {
  table: RoutingTable;
  domain: RoutingDomain;
  found: RoutingAnalysis;
}

/** Looks through a table in a web worker a moment after it was changed; only the newest waits. Undefined until the first time. */
export function useAnalysis(table: RoutingTable, domain: RoutingDomain, tree: PlaceTree): Looked | undefined {
  const [looked, setLooked] = useState<Looked>();
  const remote = useRef<Remote<AnalysisWorker>>(undefined);
  useEffect(() => {
    const worker = new Worker(new URL('./analysis.worker.ts', import.meta.url), { type: 'module' });
    remote.current = wrap<AnalysisWorker>(worker);
    return () => worker.terminate();
  }, []);
  useEffect(() => {
    let over = false;
    const wait = setTimeout(() => {
      void remote.current?.analyse(table, domain, tree).then((found) => {
        if (!over) setLooked({ table, domain, found });
      }, reportError);
    }, 120);
    return () => {
      over = true;
      clearTimeout(wait);
    };
  }, [table, domain, tree]);
  return looked;
}
