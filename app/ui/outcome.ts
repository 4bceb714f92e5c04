import { useState } from 'react';
import { useLocation } from 'react-router';

/**
 * What came of sending, for as long as its page stands: until something else is sent, or gone to. The router forgets it as soon
 * as the page is read anew, which a page that changes by itself is at any moment; a refusal must not vanish while it is read.
 */
export function useOutcome<T>(outcome: T | undefined): T | undefined {
  const { key } = useLocation();
  const [kept, setKept] = useState({ key, outcome });
  const now = outcome === undefined && key === kept.key ? kept : { key, outcome };
  if (now.key !== kept.key || now.outcome !== kept.outcome) setKept(now);
  return now.outcome;
}
