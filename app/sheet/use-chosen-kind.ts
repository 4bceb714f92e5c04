import { useState } from 'react';

/**
 * The kind of a setting that is shown: the one that stands, or one that was just chosen and is not whole yet. What stands
 * stays as it is until the new one is whole; then, or when it changes otherwise, that is shown again.
 */
export function useChosenKind(stands: string): { kind: string; choose: (kind: string) => void; waits: boolean } {
  const [wanted, setWanted] = useState<{ kind: string; over: string }>();
  // Once what stands has changed the choice is over: taken back, it is not there again.
  if (wanted && wanted.over !== stands) setWanted(undefined);
  const waits = wanted !== undefined && wanted.over === stands && wanted.kind !== stands;
  return { kind: waits ? wanted.kind : stands, choose: (kind) => setWanted({ kind, over: stands }), waits };
}
