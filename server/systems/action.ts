import type { ActionSpec } from '../../core/plans/index.ts';
import type { Value } from '../../core/values/index.ts';

/** An action of a system: what it takes and gives, and how to do it. Throws Trouble or Refused. */
export interface Action {
  spec: ActionSpec;
  run: (inputs: Record<string, Value>, idempotencyKey: string) => Promise<Record<string, Value>>;
}
