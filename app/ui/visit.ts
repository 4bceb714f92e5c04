import { createContext, useContext, useSyncExternalStore } from 'react';

/** What names this answer in the log, on the server. */
export const VisitContext = createContext<string | undefined>(undefined);

/** In the browser the answer itself says it: the header Server-Timing (W3C) of the last answer that failed, else of the page. */
export function visitInBrowser(): string | undefined {
  const timings = [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')] as PerformanceResourceTiming[];
  const answer = timings.findLast((t) => t.responseStatus >= 500) ?? timings[0];
  return answer?.serverTiming.find((s) => s.name === 'visit')?.description;
}

/** The browser notes an answer a little after it came. */
function whenNoted(changed: () => void): () => void {
  const observer = new PerformanceObserver(changed);
  observer.observe({ type: 'resource' });
  return () => observer.disconnect();
}

/** The number a person can quote, which the log carries; undefined where none is known. */
export function useVisit(): string | undefined {
  const onServer = useContext(VisitContext);
  return useSyncExternalStore(whenNoted, visitInBrowser, () => onServer);
}
