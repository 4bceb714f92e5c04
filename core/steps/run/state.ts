import { z } from 'zod';
import { Coming } from '../../meetings/index.ts';
import { Value } from '../../values/index.ts';
import { GateRule } from '../gate/settings.ts';

/** One approver of an open gate. */
export const AskedApprover = z.object({
  person: z.string(),
  /** The one they answer for: a requester's place taken by the manager, or somebody away. */
  insteadOf: z.string().optional(),
  /** Of a gate with several sources: for which of them they speak, from 0. */
  sources: z.array(z.number().int().min(0)).optional(),
  /** Their turn has not come. */
  waits: z.boolean().optional(),
  decision: z.enum(['approve', 'decline']).optional(),
  /** Reminders that went to them. */
  reminded: z.number().int().optional(),
});
export type AskedApprover = z.infer<typeof AskedApprover>;

const Values = z.record(z.string(), Value);
/** Outputs by step and name. */
export const Outputs = z.record(z.string(), Values);

/** What a step under way is at: inside its blocks, or waiting for whom or what. */
export const Phase = z.enum([
  'inside',
  'reading',
  'finding',
  'asking',
  'refinding',
  'returned',
  'calling',
  'working',
  'answering',
  'coming',
  'pausing',
  'between',
  'held',
  'failed',
  'stuck',
  'settled',
]);
export type Phase = z.infer<typeof Phase>;

/** A step that has begun and not ended. */
export interface Activity {
  /** `step#occurrence`: names this one go at the step for ever. Inside a part: `partStep/step#occurrence`. */
  key: string;
  step: string;
  phase: Phase;
  asks?: AskedApprover[] | undefined;
  /** The rule a policy gave in place of the gate's own. */
  rule?: GateRule | undefined;
  cause?: string | undefined;
  /** How often it was sent anew by a person; part of the next idempotency key, so that a new try is a new call. */
  round?: number | undefined;
  /** While the rows it reads are waited for: what goes on when they are there. `rowsRead`: they are, and it goes on where it stood. */
  reads?: 'begin' | 'again' | 'on' | undefined;
  rowsRead?: boolean | undefined;
  /** The blocks under way inside a compound step. */
  lanes?: Lane[] | undefined;
  /** Of a gate: the instant from which a decision is too late. */
  lapsesAt?: string | undefined;
  /** Of a repeat: rounds ended. Of a question or a task: reminders sent. Of a for-each: rounds begun. */
  count?: number | undefined;
  list?: Value[] | undefined;
  /** Of an invitation: who is invited, and what they said. */
  invited?: { person: string; says?: Coming | undefined }[] | undefined;
  /** Of a task that is routed: to whom. */
  routed?: { team: string } | { person: string } | undefined;
  /** Of a call: what was sent. */
  inputs?: Record<string, Value> | undefined;
}

/** Where a block stands: the index of the step that is, or will be, under way. */
export interface Lane {
  /** The branch; of a for-each the number of the round. */
  id: string;
  at: number;
  current?: Activity | undefined;
  /** Values of its own: a round's or a part's. What is set inside is seen inside only. */
  scope?: { outputs: Record<string, Record<string, Value>>; row?: Record<string, Value>; part?: Record<string, Value> } | undefined;
}

/** The schema of a step under way. */
export const Activity: z.ZodType<Activity> = z.lazy(() =>
  z.object({
    key: z.string(),
    step: z.string(),
    phase: Phase,
    asks: z.array(AskedApprover).optional(),
    rule: GateRule.optional(),
    routed: z.union([z.object({ team: z.string() }), z.object({ person: z.string() })]).optional(),
    lapsesAt: z.string().optional(),
    cause: z.string().optional(),
    round: z.number().optional(),
    reads: z.enum(['begin', 'again', 'on']).optional(),
    rowsRead: z.boolean().optional(),
    lanes: z.array(Lane).optional(),
    count: z.number().int().optional(),
    list: z.array(Value).optional(),
    invited: z.array(z.object({ person: z.string(), says: Coming.optional() })).optional(),
    inputs: Values.optional(),
  }),
);
/** The schema of a block under way. */
export const Lane: z.ZodType<Lane> = z.lazy(() =>
  z.object({
    id: z.string(),
    at: z.number().int(),
    current: Activity.optional(),
    scope: z.object({ outputs: Outputs, row: Values.optional(), part: Values.optional() }).optional(),
  }),
);

/** Something a system was made to give, that can be taken back. */
export const Given = z.object({
  key: z.string(),
  /** Of which call of its step: each time a person has it tried again is a call of its own, and may give another thing. */
  round: z.number().int().optional(),
  /** Somebody did it in the system's place. */
  byHand: z.literal(true).optional(),
  /** While it is to be taken back: who does that where the system cannot, and why it is. */
  hand: z.string().optional(),
  /** How often it was to be taken back, and was left with whoever has it. */
  left: z.number().int().optional(),
  why: z.string().optional(),
  name: z.string(),
  action: z.string(),
  undo: z.string().optional(),
  inputs: Values,
  outputs: Values,
});
export type Given = z.infer<typeof Given>;
/** What tells a thing that was given from all others of its run. */
export const givenId = ({ key, round, byHand }: Pick<Given, 'key' | 'round' | 'byHand'>): string =>
  byHand ? `${key}/hand` : round ? `${key}/${round}` : key;

/** A block that has not begun. */
export const newLane = (id: string): Lane => ({ id, at: 0 });
