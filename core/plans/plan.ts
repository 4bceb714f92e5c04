import { z } from 'zod';
import { Expected } from '../calendar/index.ts';
import { Condition } from '../conditions/index.ts';
import { Id, Operand, PersonValue, Reference, RichText } from '../values/index.ts';

export const Outcome = z.enum(['fulfilled', 'declined', 'withdrawn', 'lapsed', 'failed']);
export type Outcome = z.infer<typeof Outcome>;

/** Who decides at a gate. */
export const Approvers = z.union([
  z.object({ from: z.literal('people'), people: z.array(PersonValue).min(1) }),
  z.object({ from: z.literal('person'), person: Reference }),
  z.object({ from: z.literal('managerOf'), person: Reference }),
  z.object({ from: z.literal('ownersOf'), group: Reference }),
]);
export type Approvers = z.infer<typeof Approvers>;

/** When the gate lets the request pass, over n approvers. */
export const GateRule = z.union([
  z.object({ rule: z.literal('all') }),
  z.object({ rule: z.literal('any') }),
  z.object({ rule: z.literal('atLeast'), count: z.number().int().min(1).max(50) }),
  z.object({ rule: z.literal('first') }),
]);
export type GateRule = z.infer<typeof GateRule>;

/** What the gate does when nobody is left to ask. */
export const NobodyAnswer = z.union([
  z.object({ then: z.literal('ask'), person: PersonValue }),
  z.object({ then: z.literal('pass') }),
  z.object({ then: z.literal('fail') }),
]);
export type NobodyAnswer = z.infer<typeof NobodyAnswer>;

/** How often a failed call is tried again; each pause is `factor` times the one before. */
export const Retries = z.object({
  times: z.number().int().min(0).max(30),
  firstPauseSeconds: z.number().min(1).max(3600),
  factor: z.number().min(1).max(10),
});
export type Retries = z.infer<typeof Retries>;
/** Eight tries over about ten minutes. */
export const defaultRetries: Retries = { times: 8, firstPauseSeconds: 2, factor: 2 };

const base = { id: Id, name: z.string().trim().min(1, 'Every step has a name.').max(120), expected: Expected };

/** A draft may leave settings unset; the check finds them. */
export interface Gate extends Base {
  kind: 'gate';
  approvers?: Approvers | undefined;
  rule: GateRule;
  ownRequest: 'skip' | 'manager' | 'allow';
  nobody?: NobodyAnswer | undefined;
  approved?: Block | undefined;
  declined?: Block | undefined;
}
export interface Provision extends Base {
  kind: 'provision';
  action?: string | undefined;
  inputs: Record<string, Operand>;
  retries?: Retries | undefined;
}
export interface Tell extends Base {
  kind: 'tell';
  to?: Reference | undefined;
  subject: RichText;
  body: RichText;
}
export interface Choose extends Base {
  kind: 'choose';
  cases: { id: string; name: string; when?: Condition | undefined; block: Block }[];
  otherwise?: Block | undefined;
}
export interface Finish extends Base {
  kind: 'finish';
  outcome?: Outcome | undefined;
}
interface Base {
  id: string;
  name: string;
  expected: Expected;
}
export type Step = Gate | Provision | Tell | Choose | Finish;
export type StepKind = Step['kind'];
/** Steps in order. */
export type Block = Step[];

export const Step: z.ZodType<Step> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({
      ...base,
      kind: z.literal('gate'),
      approvers: Approvers.optional(),
      rule: GateRule,
      ownRequest: z.enum(['skip', 'manager', 'allow']),
      nobody: NobodyAnswer.optional(),
      approved: Block.optional(),
      declined: Block.optional(),
    }),
    z.object({
      ...base,
      kind: z.literal('provision'),
      action: z.string().optional(),
      inputs: z.record(z.string(), Operand),
      retries: Retries.optional(),
    }),
    z.object({ ...base, kind: z.literal('tell'), to: Reference.optional(), subject: RichText, body: RichText }),
    z.object({
      ...base,
      kind: z.literal('choose'),
      cases: z.array(z.object({ id: Id, name: z.string().max(120), when: Condition.optional(), block: Block })).max(50),
      otherwise: Block.optional(),
    }),
    z.object({ ...base, kind: z.literal('finish'), outcome: Outcome.optional() }),
  ]),
);
export const Block: z.ZodType<Block> = z.lazy(() => z.array(Step).max(300));

/** The steps a request goes through. Always well nested: compound steps hold blocks. */
export const Plan = z.object({ steps: Block });
export type Plan = z.infer<typeof Plan>;

/** The blocks a step holds, with the words that lead into each. */
export interface Branch {
  /** `approved`, `declined`, `otherwise`, or the id of a case. */
  id: string;
  block: Block;
}
export function branches(step: Step): Branch[] {
  if (step.kind === 'gate') {
    return [
      ...(step.approved ? [{ id: 'approved', block: step.approved }] : []),
      ...(step.declined ? [{ id: 'declined', block: step.declined }] : []),
    ];
  }
  if (step.kind === 'choose') {
    return [...step.cases.map((c) => ({ id: c.id, block: c.block })), ...(step.otherwise ? [{ id: 'otherwise', block: step.otherwise }] : [])];
  }
  return [];
}

/** The step with its blocks replaced, by branch id; the counterpart of `branches`. */
export function withBranches(step: Step, change: (branch: Branch) => Block): Step {
  if (step.kind === 'gate') {
    return {
      ...step,
      ...(step.approved && { approved: change({ id: 'approved', block: step.approved }) }),
      ...(step.declined && { declined: change({ id: 'declined', block: step.declined }) }),
    };
  }
  if (step.kind === 'choose') {
    return {
      ...step,
      cases: step.cases.map((c) => ({ ...c, block: change({ id: c.id, block: c.block }) })),
      ...(step.otherwise && { otherwise: change({ id: 'otherwise', block: step.otherwise }) }),
    };
  }
  return step;
}

/** Every step of a block in the order a reader meets them, with its depth and where it stands. */
export function* walk(block: Block, depth = 0, parent?: { step: Step; branch: string }): Generator<Walked> {
  for (const [index, step] of block.entries()) {
    yield { step, depth, index, block, parent };
    for (const branch of branches(step)) yield* walk(branch.block, depth + 1, { step, branch: branch.id });
  }
}
export interface Walked {
  step: Step;
  depth: number;
  index: number;
  block: Block;
  parent: { step: Step; branch: string } | undefined;
}

export const stepIds = (plan: Plan): Set<string> => new Set([...walk(plan.steps)].map((w) => w.step.id));
export const findStep = (plan: Plan, id: string): Step | undefined => {
  for (const { step } of walk(plan.steps)) if (step.id === id) return step;
  return undefined;
};

export const kindWords: Record<StepKind, { verb: string; does: string }> = {
  gate: { verb: 'Gate', does: 'Nothing passes until the approvers have let it' },
  provision: { verb: 'Provision', does: 'Change something in a system' },
  tell: { verb: 'Tell', does: 'Send a message' },
  choose: { verb: 'Choose', does: 'Go one way or another' },
  finish: { verb: 'Finish', does: 'End the request here, with an outcome' },
};
export const outcomeWords: Record<Outcome, string> = {
  fulfilled: 'Fulfilled',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
  lapsed: 'Lapsed',
  failed: 'Failed',
};
