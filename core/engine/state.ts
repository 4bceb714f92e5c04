import { z } from 'zod';
import { Activity, Given, Lane, newLane, Outcome, Outputs, Step, type AskBack, type Gate, type Task } from '../steps/index.ts';
import { PersonValue, RowRead } from '../values/index.ts';
import { Answers } from './answers.ts';

/** A gate or task added while the run was under way; the milestone `to`, or the end, waits for it. */
export const Addition = z.object({ to: z.string(), step: Step, lane: Lane });
/** A gate or task that was added while the run was under way, and where it stands. */
export interface Addition {
  to: string;
  step: AskBack | Gate | Task;
  lane: Lane;
}

/** The snapshot of a run: plain JSON, everything the next event needs. */
export const RunState = z.object({
  status: z.enum(['new', 'open', 'ended']),
  outcome: Outcome.optional(),
  /** Why it ended as it did, for the requester. */
  reason: z.string().optional(),
  request: z
    .object({
      requester: PersonValue,
      for: PersonValue.optional(),
      number: z.string(),
      opened: z.string(),
      zone: z.string(),
      causes: z.array(z.string()).optional(),
    })
    .optional(),
  answers: Answers,
  outputs: Outputs,
  /** The rows whose columns were read, each as it was when that was done last. */
  rows: z.array(RowRead).optional(),
  /** How often each step has begun. */
  begun: z.record(z.string(), z.number().int()),
  root: Lane,
  additions: z.array(Addition).optional(),
  /** Milestones reached, by step id. */
  reached: z.array(z.string()).optional(),
  /** The status shown to the requester, of the last mark that set one. */
  shown: z.string().optional(),
  noReturn: z.boolean().optional(),
  given: z.array(Given).optional(),
  /** How it is to end, once the closing that stands there is over. */
  ending: z.object({ outcome: Outcome, reason: z.string().optional(), step: z.string(), lane: Lane }).optional(),
  /** Calls cancelled under way, whose answer may still come. */
  cancelled: z.array(Given).optional(),
  /** What is still to be taken back, the next one first. `aside`: what was given back by itself and waits for a person; it holds nothing else up. */
  undoing: z
    .object({
      waiting: z.array(Given),
      current: Activity.optional(),
      aside: z.array(z.object({ given: Given, activity: Activity })).optional(),
    })
    .optional(),
});
/** The snapshot of a run, as its schema reads it. */
export interface RunState extends Omit<z.infer<typeof RunState>, 'additions'> {
  additions?: Addition[] | undefined;
}

/** The state of a run that has not begun. */
export const newState = (): RunState => ({ status: 'new', answers: {}, outputs: {}, begun: {}, root: newLane('plan') });

/** The activities that wait for something outside, innermost. */
export function openActivities(state: RunState): Activity[] {
  const found: Activity[] = [];
  const visit = (lane: Lane) => {
    const { current } = lane;
    if (!current) return;
    if (current.lanes?.length && current.phase === 'inside') current.lanes.forEach(visit);
    else found.push(current);
  };
  visit(state.root);
  if (state.ending) visit(state.ending.lane);
  state.additions?.forEach((a) => visit(a.lane));
  return [...found, ...undoActivities(state)];
}

/** The activities by which something is taken back. */
export const undoActivities = ({ undoing }: Pick<RunState, 'undoing'>): Activity[] => [
  ...(undoing?.current ? [undoing.current] : []),
  ...(undoing?.aside ?? []).map((a) => a.activity),
];
