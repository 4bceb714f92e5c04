import { createContext, useContext, useSyncExternalStore } from 'react';

/** What names this answer in the log, on the server. */
export const VisitContext = createContext<string | undefined>(undefined);

/** In the browser the answer itself says it: the header Server-Timing (W3C) of the page, or of the data that came last. */
function fromBrowser(): string | undefined {
  const timings = [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')] as PerformanceResourceTiming[];
  return timings.flatMap((t) => (t.name.includes('/assets/') ? [] : t.serverTiming)).findLast((s) => s.name === 'visit')?.description;
}

/** The number a person can quote, which the log carries; undefined where none is known. */
export function useVisit(): string | undefined {
  const onServer = useContext(VisitContext);
  return useSyncExternalStore(
    () => () => undefined,
    fromBrowser,
    () => onServer,
  );
}
