import { z } from 'zod';
import { Outcome } from '../plans/index.ts';
import { PersonValue, Value } from '../values/index.ts';
import { Answers } from './answers.ts';

/** One approver of an open gate. */
export const Ask = z.object({
  person: z.string(),
  /** The one they answer for: a requester's place taken by the manager, or somebody away. */
  insteadOf: z.string().optional(),
  decision: z.enum(['approve', 'decline']).optional(),
});
export type Ask = z.infer<typeof Ask>;

/** A step that has begun and not ended. */
export interface Activity {
  /** `step#occurrence`: names this one go at the step for ever. */
  key: string;
  step: string;
  phase: 'finding' | 'asking' | 'calling' | 'stuck' | 'inside';
  asks?: Ask[] | undefined;
  cause?: string | undefined;
  /** How often it was sent anew by a person; part of the next idempotency key, so that a new try is a new call. */
  round?: number | undefined;
  /** The branch being run, of a compound step. */
  branch?: string | undefined;
  inside?: BlockActivity | undefined;
}

/** Where a block stands: the index of the step that is, or will be, under way. */
export interface BlockActivity {
  at: number;
  current?: Activity | undefined;
}

export const Activity: z.ZodType<Activity> = z.lazy(() =>
  z.object({
    key: z.string(),
    step: z.string(),
    phase: z.enum(['finding', 'asking', 'calling', 'stuck', 'inside']),
    asks: z.array(Ask).optional(),
    cause: z.string().optional(),
    round: z.number().optional(),
    branch: z.string().optional(),
    inside: BlockActivity.optional(),
  }),
);
export const BlockActivity: z.ZodType<BlockActivity> = z.lazy(() => z.object({ at: z.number().int(), current: Activity.optional() }));

/** The snapshot of a run: plain JSON, everything the next event needs. */
export const RunState = z.object({
  status: z.enum(['new', 'open', 'ended']),
  outcome: Outcome.optional(),
  /** Why it ended as it did, for the requester. */
  reason: z.string().optional(),
  request: z.object({ requester: PersonValue, number: z.string(), opened: z.string() }).optional(),
  answers: Answers,
  outputs: z.record(z.string(), z.record(z.string(), Value)),
  /** How often each step has begun. */
  begun: z.record(z.string(), z.number().int()),
  root: BlockActivity,
});
export type RunState = z.infer<typeof RunState>;

export const newState = (): RunState => ({ status: 'new', answers: {}, outputs: {}, begun: {}, root: { at: 0 } });

/** The activities that wait for something outside, innermost. */
export function openActivities(state: RunState): Activity[] {
  const found: Activity[] = [];
  const visit = (block: BlockActivity | undefined) => {
    if (!block?.current) return;
    if (block.current.inside) visit(block.current.inside);
    else found.push(block.current);
  };
  visit(state.root);
  return found;
}

/** Reads a place of the run: `request.*`, `form.*`, `steps.<id>.*`. */
export function readPlace(state: RunState, ref: string): Value | undefined {
  const [head, second, third] = ref.split('.') as [string, string, string | undefined];
  if (head === 'form') return state.answers[second];
  if (head === 'steps') return state.outputs[second]?.[third ?? ''];
  if (head === 'request' && state.request) {
    if (second === 'requester') return state.request.requester;
    if (second === 'number') return state.request.number;
    if (second === 'opened') return state.request.opened;
  }
  return undefined;
}
